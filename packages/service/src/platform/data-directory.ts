import {
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  statfsSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { PindroError } from '@pindro/core';

/** Less free space than this, and the service does not start: it could not keep its promises. */
const NEEDED = 4 * 1024 * 1024;

const FIXES: Record<string, string> = {
  EACCES: 'Give this user write permission there, or name another directory with --data.',
  EPERM: 'Give this user write permission there, or name another directory with --data.',
  EROFS: 'The file system is read-only; name another directory with --data.',
  ENOSPC: 'Free some space there, or name another directory with --data.',
  ENOTDIR: 'A part of the path is a file; name another directory with --data.',
};
const REASONS: Record<string, string> = {
  EACCES: 'this user may not write there',
  EPERM: 'this user may not write there',
  EROFS: 'the file system is read-only',
  ENOSPC: 'there is no space left',
  ENOTDIR: 'a part of the path is a file',
  ENOENT: 'nothing can be made there',
};

/**
 * Makes the data directory usable and takes it for this process alone.
 * @returns gives it back
 * @throws data_directory
 */
export function takeDataDirectory(path: string): () => void {
  const refuse = (why: string, fix: string) => new PindroError('data_directory', { path, why, fix });
  try {
    makeDirectory(path);
    const probe = join(path, '.probe');
    const file = openSync(probe, 'w', 0o600);
    try {
      writeSync(file, Buffer.alloc(64 * 1024));
      fsyncSync(file);
    } finally {
      closeSync(file);
      rmSync(probe, { force: true });
    }
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? '';
    throw refuse(REASONS[code] ?? (error as Error).message, FIXES[code] ?? 'Name another directory with --data.');
  }
  const { bavail, bsize } = statfsSync(path);
  if (bavail * bsize < NEEDED) throw refuse('there is no space left', FIXES.ENOSPC!);

  const lock = join(path, 'pindro.lock');
  const holder = existsSync(lock) ? Number(readFileSync(lock, 'utf8')) : 0;
  if (holder && holder !== process.pid && isAlive(holder)) {
    throw refuse(
      `another Pindro (process ${holder}) is using it`,
      'Stop that one, or name another directory with --data.',
    );
  }
  writeFileSync(lock, String(process.pid), { mode: 0o600 });
  return () => rmSync(lock, { force: true });
}

/** Makes a directory and those above it, one by one: made in one go, a read-only file system is told as a missing path. */
function makeDirectory(path: string): void {
  if (existsSync(path)) return;
  makeDirectory(dirname(path));
  mkdirSync(path, { mode: 0o700 });
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
