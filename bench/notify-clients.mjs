/*
 * Some of the clients of `notify-500`, in a process of their own: clients that share one thread would wait for each other,
 * which real ones do not. Takes the address and its keys as a message; says
 * when all are listening, and then of each name of the first tool when all have listed it.
 */
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { ToolListChangedNotificationSchema } from '@modelcontextprotocol/sdk/types.js';

process.once('message', async ({ url, keys }) => {
  const listed = new Map();
  for (const key of keys) {
    const client = new Client({ name: 'bench', version: '1' });
    await client.connect(
      new StreamableHTTPClientTransport(new URL(url), { requestInit: { headers: { authorization: `Bearer ${key}` } } }),
    );
    await client.listTools();
    client.setNotificationHandler(ToolListChangedNotificationSchema, async () => {
      const { tools } = await client.listTools();
      const { name } = tools[0];
      const count = (listed.get(name) ?? 0) + 1;
      listed.set(name, count);
      if (count === keys.length) process.send({ listed: name });
    });
  }
  process.send({ listening: true });
});
