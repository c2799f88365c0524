import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

export type Reply =
  | { text: string }
  | { calls: { name: string; arguments: object | string }[] }
  | ((response: ServerResponse) => void);

export interface ScriptedModel {
  url: string;
  /** What it was asked, newest last. */
  requests: {
    body: {
      messages: { role: string; content: string }[];
      max_tokens?: number;
      tools?: { function: { name: string; description: string; parameters: object } }[];
    };
    headers: IncomingMessage['headers'];
  }[];
  close(): Promise<void>;
}

/** A model on a real socket that says what a test tells it to, one reply after another; the last one repeats. */
export async function scriptedModel(replies: Reply[]): Promise<ScriptedModel> {
  const requests: ScriptedModel['requests'] = [];
  const server = createServer((request, response) => {
    let body = '';
    request.on('data', (piece) => {
      body += piece;
    });
    request.on('end', () => {
      // It does not say which models there are.
      if (request.method === 'GET') return void response.writeHead(404).end();
      requests.push({ body: JSON.parse(body), headers: request.headers });
      const reply = replies[Math.min(requests.length, replies.length) - 1]!;
      if (typeof reply === 'function') return reply(response);
      response.writeHead(200, { 'content-type': 'text/event-stream' });
      const send = (delta: object, finish_reason: string | null = null) =>
        response.write(`data: ${JSON.stringify({ choices: [{ index: 0, delta, finish_reason }] })}\n\n`);
      if ('text' in reply) for (const piece of reply.text.match(/.{1,4}/gs) ?? []) send({ content: piece });
      else {
        reply.calls.forEach((call, index) => {
          const args = typeof call.arguments === 'string' ? call.arguments : JSON.stringify(call.arguments);
          send({
            tool_calls: [
              {
                index,
                id: `c${requests.length}_${index}`,
                type: 'function',
                function: { name: call.name, arguments: '' },
              },
            ],
          });
          for (const piece of args.match(/.{1,5}/gs) ?? [])
            send({ tool_calls: [{ index, function: { arguments: piece } }] });
        });
      }
      send({}, 'calls' in reply ? 'tool_calls' : 'stop');
      response.end(
        `data: ${JSON.stringify({ choices: [], usage: { prompt_tokens: 10, completion_tokens: 5 } })}\n\ndata: [DONE]\n\n`,
      );
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    requests,
    close: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}

/** A port on which nothing listens. */
export async function deadPort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  await new Promise((resolve) => server.close(resolve));
  return port;
}
