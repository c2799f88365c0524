import { randomUUID } from 'node:crypto';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { McpServer } from '@modelcontextprotocol/sdk/server/mcp.js';
import { StreamableHTTPServerTransport } from '@modelcontextprotocol/sdk/server/streamableHttp.js';
import { z } from 'zod';

export interface SlowServer {
  url: string;
  close(): Promise<void>;
}

/** A tool server whose one tool takes its time, and says how far it is where somebody wants to know. */
export async function startSlowServer(): Promise<SlowServer> {
  const sessions = new Map<string, StreamableHTTPServerTransport>();
  const make = () => {
    const server = new McpServer({ name: 'Slow', version: '1.0.0' }, { capabilities: { logging: {} } });
    const inputSchema = { stages: z.number(), pause: z.number(), counted: z.boolean().default(true) };
    server.registerTool('climb', { inputSchema }, async ({ stages, pause, counted }, { _meta, sendNotification }) => {
      for (let stage = 1; stage <= stages; stage++) {
        await new Promise((resolve) => setTimeout(resolve, pause));
        await sendNotification({
          method: 'notifications/message',
          params: { level: stage === 2 ? 'warning' : 'debug', logger: 'trail', data: `stage ${stage} of ${stages}` },
        });
        if (_meta?.progressToken === undefined) continue;
        const params = { progressToken: _meta.progressToken, progress: stage, ...(counted && { total: stages }) };
        await sendNotification({
          method: 'notifications/progress',
          params: { ...params, ...(counted && { message: `Stage ${stage} of the trail` }) },
        });
      }
      return { content: [{ type: 'text', text: `climbed ${stages} stages` }] };
    });
    return server;
  };
  const http = createServer(async (request, response) => {
    const known = sessions.get(String(request.headers['mcp-session-id'] ?? ''));
    if (known) return known.handleRequest(request, response);
    const transport = new StreamableHTTPServerTransport({
      sessionIdGenerator: () => randomUUID(),
      onsessioninitialized: (id) => void sessions.set(id, transport),
    });
    await make().connect(transport);
    await transport.handleRequest(request, response);
  });
  await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve));
  return {
    url: `http://127.0.0.1:${(http.address() as AddressInfo).port}/mcp`,
    close: async () => {
      http.closeAllConnections();
      await new Promise((resolve) => http.close(resolve));
    },
  };
}
