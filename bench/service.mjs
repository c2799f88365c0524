/* A service with an empty workspace for as long as some work takes. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startReady } from './process.mjs';

const PINDRO = fileURLToPath(new URL('../packages/cli/bin/pindro.js', import.meta.url));

/** Hands over where the service is, what a request to it needs, its directory, its process, and how long it took to be ready. */
export const withService = (work, ...options) => withServiceOf([], work, ...options);

/** The same with arguments of Node.js itself, such as a module that is loaded before. */
export async function withServiceOf(node, work, ...options) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-bench-'));
  const service = await startReady([...node, PINDRO, 'serve', '--json', '--port', '0', '--data', data, ...options]);
  const { url, apiKey } = service.ready;
  const headers = { authorization: `Bearer ${apiKey}`, 'content-type': 'application/json' };
  const post = async (path, body) => {
    const response = await fetch(`${url}/api/v1${path}`, { method: 'POST', headers, body: JSON.stringify(body) });
    if (!response.ok) throw new Error(`${path}: ${await response.text()}`);
    return response.json();
  };
  try {
    return await work({ ...service, url, apiKey, headers, post, data });
  } finally {
    await service.stop();
    rmSync(data, { recursive: true, force: true });
  }
}
