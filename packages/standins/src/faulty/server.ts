import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { json } from 'node:stream/consumers';
import { listen } from '../listen.js';
import { answer, type Message } from './answer.js';
import type { ListName, Whole } from './faults.js';

export interface FaultyServer {
  url: string;
  older: string;
  /** How often somebody connected. */
  connected(): number;
  /** How often a tool was called. */
  called(tool: string): number;
  /** Changes which tools it has, and tells whoever listens. */
  turn(list: ListName): void;
  /** Changes them without a word. */
  quietly(list: ListName): void;
  close(): Promise<void>;
}

/**
 * An MCP server whose tools each do one thing wrong, over Streamable HTTP (`/mcp`), over HTTP+SSE (`/sse`), and over that
 * alone (`/only-sse`).
 */
export async function startFaultyServer({ port = 0 }: { port?: number } = {}): Promise<FaultyServer> {
  let connected = 0;
  const calls: string[] = [];
  /** Streams of answers of the older transport, by their sessions. */
  const streams = new Map<string, ServerResponse>();
  /** Streams for messages without a request. */
  const listening = new Set<ServerResponse>();
  const whole: Whole = {
    list: 'usual',
    changed: () => {
      const told = JSON.stringify({ jsonrpc: '2.0', method: 'notifications/tools/list_changed' });
      for (const stream of [...listening, ...streams.values()]) event(stream, told);
    },
  };
  const take = (message: Message, response: ServerResponse, stream: ServerResponse | null) => {
    if (message.method === 'initialize') connected++;
    if (message.method === 'tools/call') calls.push(message.params?.name ?? '');
    const begin = () => {
      if (!response.headersSent) response.writeHead(200, { 'content-type': 'text/event-stream' });
      return response;
    };
    answer(message, whole, {
      send: (said) => {
        const text = JSON.stringify(said);
        if (stream) return event(stream, text);
        const isLast = 'id' in said;
        if (isLast && !response.headersSent)
          return void response.writeHead(200, { 'content-type': 'application/json' }).end(text);
        event(begin(), text);
        if (isLast) response.end();
      },
      babble: (text) =>
        stream ? event(stream, text) : void response.writeHead(200, { 'content-type': 'application/json' }).end(text),
      status: (code, text = '') => void response.writeHead(code).end(text),
      cut: (broken) => {
        begin().write(': here it comes\n\n');
        setTimeout(() => (broken ? response.destroy() : response.end()), 50);
      },
    });
  };
  const server = createServer(async (request: IncomingMessage, response) => {
    const { pathname, searchParams } = new URL(request.url ?? '/', 'http://faulty');
    if (request.method === 'GET') {
      response.writeHead(200, { 'content-type': 'text/event-stream' });
      response.write(': listening\n\n');
      if (!pathname.endsWith('sse')) {
        listening.add(response);
        response.on('close', () => listening.delete(response));
        return;
      }
      const session = String(streams.size + 1);
      streams.set(session, response);
      return event(response, `/messages?session=${session}`, 'endpoint');
    }
    if (request.method !== 'POST') return void response.writeHead(405).end();
    const message = (await json(request)) as Message;
    if (pathname === '/only-sse') return void response.writeHead(405).end();
    if (pathname !== '/messages') {
      if (message.id === undefined) return void response.writeHead(202).end();
      return take(message, response, null);
    }
    const stream = streams.get(searchParams.get('session') ?? '');
    if (!stream) return void response.writeHead(404).end();
    take(message, response, stream);
    if (!response.headersSent) response.writeHead(202).end();
  });
  const base = `http://127.0.0.1:${await listen(server, port)}`;
  return {
    url: `${base}/mcp`,
    older: `${base}/sse`,
    connected: () => connected,
    called: (tool) => calls.filter((name) => name === tool).length,
    turn: (list) => {
      whole.list = list;
      whole.changed();
    },
    quietly: (list) => {
      whole.list = list;
    },
    close: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}

const event = (stream: ServerResponse, data: string, name = 'message') =>
  void stream.write(`event: ${name}\ndata: ${data}\n\n`);
