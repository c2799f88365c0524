import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { json } from 'node:stream/consumers';

export interface OddServer {
  url: string;
  /** The arguments of every call, in order. */
  calls: { tool: string; arguments: unknown }[];
  close(): void;
}

type Result = Record<string, unknown>;

/** An MCP server on a real socket whose tools and answers are what a test wants, schemas that nobody should send included. */
export async function oddServer(
  tools: readonly Result[],
  answer: (tool: string, args: Record<string, unknown>) => Result | Promise<Result>,
  more: Result = {},
  port = 0,
): Promise<OddServer> {
  const calls: OddServer['calls'] = [];
  const server = createServer(async (request, response) => {
    if (request.method !== 'POST') return void response.writeHead(405).end();
    const { id, method, params } = (await json(request)) as { id?: number; method: string; params: Result };
    if (id === undefined) return void response.writeHead(202).end();
    const result =
      method === 'initialize'
        ? {
            protocolVersion: params.protocolVersion,
            capabilities: { tools: {} },
            serverInfo: { name: 'odd', version: '1' },
            ...more,
          }
        : method === 'tools/list'
          ? { tools }
          : await call(params as { name: string; arguments: Record<string, unknown> });
    response.writeHead(200, { 'content-type': 'application/json' });
    response.end(JSON.stringify({ jsonrpc: '2.0', id, result }));
  });
  const call = ({ name, arguments: given = {} }: { name: string; arguments: Record<string, unknown> }) => {
    calls.push({ tool: name, arguments: given });
    return answer(name, given);
  };
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/mcp`,
    calls,
    close: () => {
      server.closeAllConnections();
      server.close();
    },
  };
}
