import { createServer, type IncomingMessage, request } from 'node:http';
import type { AddressInfo } from 'node:net';

export interface Gate {
  url: string;
  /** What was asked, the newest last. */
  asked: { url: string; headers: IncomingMessage['headers'] }[];
  close(): Promise<void>;
}

/**
 * A door before another server that wants a key of its own kind, and shows the key of the other one.
 * @param opens whether a request has what it wants
 */
export async function startGate(
  target: string,
  key: string,
  opens: (request: IncomingMessage) => boolean,
): Promise<Gate> {
  const asked: Gate['asked'] = [];
  const { hostname, port } = new URL(target);
  const server = createServer((incoming, outgoing) => {
    asked.push({ url: incoming.url ?? '', headers: incoming.headers });
    if (!opens(incoming)) return void outgoing.writeHead(401).end();
    const { pathname, searchParams } = new URL(incoming.url ?? '', 'http://gate');
    for (const name of ['key', 'api_key']) searchParams.delete(name);
    const path = searchParams.size > 0 ? `${pathname}?${searchParams}` : pathname;
    const headers = { ...incoming.headers, host: `${hostname}:${port}`, authorization: `Bearer ${key}` };
    const onward = request({ hostname, port, path, method: incoming.method, headers }, (answer) => {
      outgoing.writeHead(answer.statusCode ?? 502, answer.headers);
      answer.pipe(outgoing);
    });
    onward.on('error', () => outgoing.destroy());
    outgoing.on('close', () => onward.destroy());
    incoming.pipe(onward);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    asked,
    close: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}
