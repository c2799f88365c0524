import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

type Send = (message: object) => void;
interface Asked {
  id: string | number;
  /** Answers as the transport does. */
  send: Send;
  /** The answer to the request, for what goes wrong below the protocol. */
  response: ServerResponse;
}

/** What each tool does wrong; `good` takes a while and does nothing wrong. */
export const FAULTS: Record<string, (asked: Asked) => void> = {
  good: ({ id, send }) =>
    void setTimeout(
      () => send({ jsonrpc: '2.0', id, result: { content: [{ type: 'text', text: 'all is well' }] } }),
      700,
    ),
  refuses: ({ response }) => void response.writeHead(403).end(),
  busy: ({ response }) => void response.writeHead(429).end(),
  breaks: ({ response }) => void response.writeHead(500).end('oops'),
  closes: ({ id, send }) => send({ jsonrpc: '2.0', id, error: { code: -32_000, message: 'the valve is closed' } }),
  tires: ({ id, send }) => send({ jsonrpc: '2.0', id, error: { code: -32_001, message: 'the pump is tired' } }),
  babbles: ({ id, send }) => send({ jsonrpc: '2.0', id, result: 'snow' }),
  ends: ({ response }) => {
    response.writeHead(200, { 'content-type': 'text/event-stream' });
    response.write(': here it comes\n\n');
    setTimeout(() => response.end(), 50);
  },
  drops: ({ response }) => {
    response.writeHead(200, { 'content-type': 'text/event-stream' });
    response.write(': here it comes\n\n');
    setTimeout(() => response.destroy(), 50);
  },
  prose: ({ response }) =>
    void response.writeHead(200, { 'content-type': 'application/json' }).end('snow on the ridge'),
};

export interface FaultyServer {
  url: string;
  older: string;
  /** How often somebody connected. */
  connected(): number;
  close(): Promise<void>;
}

/** An MCP server whose tools each do one thing wrong, over Streamable HTTP and over HTTP+SSE. */
export async function startFaultyServer(): Promise<FaultyServer> {
  let connected = 0;
  const streams = new Map<string, ServerResponse>();
  const answer = (
    message: { id?: string | number; method: string; params?: { name?: string } },
    send: Send,
    response: ServerResponse,
  ) => {
    const { id, method } = message;
    if (id === undefined) return;
    if (method === 'initialize') {
      connected++;
      const info = {
        protocolVersion: '2025-06-18',
        capabilities: { tools: {} },
        serverInfo: { name: 'Faulty', version: '1' },
      };
      return send({ jsonrpc: '2.0', id, result: info });
    }
    if (method === 'tools/list') {
      const tools = Object.keys(FAULTS).map((name) => ({ name, inputSchema: { type: 'object' } }));
      return send({ jsonrpc: '2.0', id, result: { tools } });
    }
    FAULTS[message.params?.name ?? '']?.({ id, send, response });
  };
  const read = async (request: IncomingMessage) => {
    let body = '';
    for await (const piece of request) body += piece;
    return JSON.parse(body);
  };
  const event = (stream: ServerResponse, data: string, name = 'message') =>
    void stream.write(`event: ${name}\ndata: ${data}\n\n`);
  const server = createServer(async (request, response) => {
    const { pathname, searchParams } = new URL(request.url ?? '/', 'http://faulty');
    if (pathname === '/sse' && request.method === 'GET') {
      const session = String(streams.size + 1);
      response.writeHead(200, { 'content-type': 'text/event-stream' });
      streams.set(session, response);
      return event(response, `/messages?session=${session}`, 'endpoint');
    }
    if (request.method !== 'POST') return void response.writeHead(405).end();
    const message = await read(request);
    if (pathname === '/messages') {
      const stream = streams.get(searchParams.get('session') ?? '');
      if (!stream) return void response.writeHead(404).end();
      answer(message, (said) => event(stream, JSON.stringify(said)), response);
      if (!response.headersSent) response.writeHead(202).end();
      return;
    }
    if (message.id === undefined) return void response.writeHead(202).end();
    const send = (said: object) =>
      void response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(said));
    answer(message, send, response);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return {
    url: `${base}/mcp`,
    older: `${base}/sse`,
    connected: () => connected,
    close: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}
