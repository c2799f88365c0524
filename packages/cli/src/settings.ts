import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { PindroError } from '@pindro/core/browser';

export const DEFAULT_FILE = '.pindro/client.json';
const DEFAULT_URL = 'http://127.0.0.1:7377';

export interface Connection {
  url: string;
  key: string | undefined;
  /** Where the address came from, for people. */
  from: string;
}

/** Where the service is and with which key: from the flags, else the environment, else the settings file. */
export function findConnection(
  flags: { url?: string; key?: string; settings?: string },
  env: NodeJS.ProcessEnv = process.env,
): Connection {
  const file = flags.settings ?? env.PINDRO_SETTINGS ?? DEFAULT_FILE;
  const named = flags.settings ? '--settings' : env.PINDRO_SETTINGS ? 'PINDRO_SETTINGS' : null;
  if (named && !existsSync(file))
    throw new PindroError('file_unreadable', {
      ...{ path: file, why: 'it does not exist' },
      fix: `${named} refers to it. Correct the path, or unset ${named} to use ${DEFAULT_FILE}.`,
    });
  const kept = readFile(file);
  const url = flags.url ?? env.PINDRO_URL ?? kept?.url ?? DEFAULT_URL;
  const from = flags.url ? '--url' : env.PINDRO_URL ? 'PINDRO_URL' : kept?.url ? file : 'the default';
  // A key is sent only to the address it was stored for.
  const key =
    flags.key ?? env.PINDRO_KEY ?? (kept?.url !== undefined && plain(kept.url) === plain(url) ? kept.key : undefined);
  return { url: plain(url), key, from };
}

/** An address without a slash at its end. */
const plain = (url: string) => url.replace(/\/+$/, '');

function readFile(path: string): { url?: string; key?: string } | null {
  if (!existsSync(path)) return null;
  try {
    return JSON.parse(readFileSync(path, 'utf8')) as { url?: string; key?: string };
  } catch {
    throw new PindroError('file_unreadable', {
      ...{ path, why: 'not valid JSON' },
      fix: 'Fix it, or delete it and restart the service.',
    });
  }
}

/** Returns the settings file of a data directory: next to the default one, otherwise inside it. */
export function settingsFileFor(data: string): string {
  const beside = resolve(dirname(DEFAULT_FILE));
  return dirname(resolve(data)) === beside ? DEFAULT_FILE : join(data, 'client.json');
}

/** Keeps address and key for the commands that come after, readable by this user alone. */
export function keepConnection(file: string, url: string, key: string): void {
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, `${JSON.stringify({ url, key }, null, 2)}\n`, { mode: 0o600 });
}

export const keptKey = (file: string): string | undefined => readFile(file)?.key;
