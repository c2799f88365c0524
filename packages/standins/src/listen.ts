import type { AddressInfo, Server } from 'node:net';

/** Listens on loopback, on the wanted port or, where that is taken, on a free one. @returns the port */
export async function listen(
  server: Pick<Server, 'once' | 'off' | 'listen' | 'address'>,
  wanted: number,
): Promise<number> {
  try {
    return await attempt(server, wanted);
  } catch (error) {
    if (wanted === 0 || (error as NodeJS.ErrnoException).code !== 'EADDRINUSE') throw error;
    return attempt(server, 0);
  }
}

function attempt(server: Pick<Server, 'once' | 'off' | 'listen' | 'address'>, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      server.off('error', reject);
      resolve((server.address() as AddressInfo).port);
    });
  });
}
