import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { open, realpath, stat } from 'node:fs/promises';
import { delimiter, isAbsolute, join, resolve } from 'node:path';
import type { Program, ProgramFile } from '@pindro/contract';

/** Arguments that an interpreter executes, by their file name. */
const SCRIPT = /\.(?:[cm]?[jt]sx?|py|rb|pl|php|lua|sh|bash|ps1|jar|wasm|bat|cmd)$/i;
/** At most this many files are part of a fingerprint. */
const MAX_FILES = 20;

/** Digests by path, valid while inode, size and change time stay the same: an interpreter has a hundred megabytes. */
const digests = new Map<string, { version: string; sha256: Promise<string> }>();
const MAX_DIGESTS = 500;

/**
 * Returns the files that starting a program executes: the resolved command and each argument that is a script. A
 * missing command yields no entry; starting it fails later.
 */
export async function executableFiles({ command, args, cwd = process.cwd() }: Program): Promise<ProgramFile[]> {
  const found = [await resolveCommand(command, cwd)];
  for (const one of args) {
    if (typeof one !== 'string' || one.startsWith('-')) continue;
    const path = isAbsolute(one) ? one : resolve(cwd, one);
    if (await isScript(path)) found.push(path);
  }
  const paths = [...new Set(found.filter((path) => path !== null))].slice(0, MAX_FILES);
  return Promise.all(paths.map(async (path) => ({ path, sha256: await digestOf(path) })));
}

/** Looks a command up as the operating system does: a path as it is, a bare name in each folder of PATH. */
async function resolveCommand(command: string, cwd: string): Promise<string | null> {
  if (/[\\/]/.test(command)) return isFile(resolve(cwd, command));
  for (const folder of (process.env.PATH ?? '').split(delimiter)) {
    const path = folder === '' ? null : await isFile(join(folder, command));
    if (path !== null) return path;
  }
  return null;
}

async function isFile(path: string): Promise<string | null> {
  try {
    return (await stat(path)).isFile() ? await realpath(path) : null;
  } catch {
    return null;
  }
}

async function isScript(path: string): Promise<boolean> {
  if ((await isFile(path)) === null) return false;
  if (SCRIPT.test(path)) return true;
  try {
    const file = await open(path, 'r');
    try {
      const { buffer } = await file.read(Buffer.alloc(2), 0, 2, 0);
      return buffer.toString('latin1') === '#!';
    } finally {
      await file.close();
    }
  } catch {
    return false;
  }
}

async function digestOf(path: string): Promise<string> {
  const { ino, size, ctimeNs } = await stat(path, { bigint: true });
  const version = `${ino} ${size} ${ctimeNs}`;
  const known = digests.get(path);
  if (known?.version === version) return known.sha256;
  const sha256 = hash(path);
  if (digests.size >= MAX_DIGESTS) digests.clear();
  digests.set(path, { version, sha256 });
  sha256.catch(() => digests.delete(path));
  return sha256;
}

/** Hashes a file piece by piece, so that the event loop stays free. */
async function hash(path: string): Promise<string> {
  const digest = createHash('sha256');
  for await (const piece of createReadStream(path)) digest.update(piece as Buffer);
  return digest.digest('hex');
}
