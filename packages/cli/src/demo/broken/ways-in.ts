import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import type { Broken, Ground } from './broken.js';

/** Calls a tool of the endpoint `huts` as a client that knows no better. @returns the run of the call */
async function callAs({ service, api, wardenKey }: Ground, tool: string, args: Record<string, unknown>) {
  const client = new Client({ name: 'hut-tablet', version: '1.4.0' });
  const transport = new StreamableHTTPClientTransport(new URL(`${service.url}/mcp/huts`), {
    requestInit: { headers: { Authorization: `Bearer ${wardenKey}` } },
  });
  await client.connect(transport as never);
  await client.callTool({ name: tool, arguments: args }).catch(() => {});
  await transport.terminateSession().catch(() => {});
  await client.close();
  const { items } = await api.listRuns({ query: { endpoint: 'huts', roots: 'true', limit: 1 } });
  return items[0]!.id;
}

/** What is wrong with a call from outside. */
export const WAYS_IN: readonly Broken[] = [
  {
    code: 'tool_not_offered',
    about: 'a client that calls a tool by a name the endpoint does not have',
    run: (ground) => callAs(ground, 'reserve_bunk', { hut: 'larch' }),
  },
  {
    code: 'arguments_refused',
    about: 'a call without the night',
    run: (ground) => callAs(ground, 'reserve_bunks', { hut: 'kestrel', party: 4 }),
  },
];
