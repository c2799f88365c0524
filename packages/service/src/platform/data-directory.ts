import {
  chmodSync,
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  statfsSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { PindroError } from '@pindro/core';
import Sqlite from 'better-sqlite3';

/** Less free space than this, and the service does not start: it could not keep its promises. */
const NEEDED = 4 * 1024 * 1024;

const FIXES: Record<string, string> = {
  EACCES: 'Give this user write permission there, or choose another directory with --data.',
  EPERM: 'Give this user write permission there, or choose another directory with --data.',
  EROFS: 'The file system is read-only; choose another directory with --data.',
  ENOSPC: 'Free up space there, or choose another directory with --data.',
  ENOTDIR: 'A part of the path is a file; choose another directory with --data.',
};
const REASONS: Record<string, string> = {
  EACCES: 'this user has no write permission',
  EPERM: 'this user has no write permission',
  EROFS: 'the file system is read-only',
  ENOSPC: 'no space is left',
  ENOTDIR: 'a part of the path is a file',
  ENOENT: 'nothing can be created there',
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
    throw refuse(REASONS[code] ?? (error as Error).message, FIXES[code] ?? 'Choose another directory with --data.');
  }
  const { bavail, bsize } = statfsSync(path);
  if (bavail * bsize < NEEDED) throw refuse('no space is left', FIXES.ENOSPC!);

  const lock = takeLock(join(path, 'pindro.lock'));
  const holder = join(path, 'pindro.pid');
  if (lock === null) {
    const process = existsSync(holder) ? ` (process ${readFileSync(holder, 'utf8').trim()})` : '';
    throw refuse(`another Pindro${process} is using it`, 'Stop that one, or choose another directory with --data.');
  }
  // One that was there before may have been made for others to look into.
  if (existsSync(join(path, 'pindro.db'))) chmodSync(path, 0o700);
  writeFileSync(holder, String(process.pid), { mode: 0o600 });
  return () => {
    rmSync(holder, { force: true });
    lock.close();
  };
}

interface Lock {
  close(): void;
}
/** Locks are held as long as something refers to them. */
const held = new Set<Lock>();

/**
 * A lock held by the operating system: it is released when its process ends, and a recycled process ID has no effect.
 * Nothing else may open the file, which would release it.
 * @returns null if another process has it
 */
function takeLock(path: string): Lock | null {
  // Before the operating system held the lock the file was a text with the number of a process.
  if (existsSync(path) && statSync(path).size > 0 && statSync(path).size < 100) rmSync(path);
  const database = new Sqlite(path);
  try {
    database.pragma('busy_timeout = 0');
    database.exec('BEGIN EXCLUSIVE');
  } catch {
    database.close();
    return null;
  }
  chmodSync(path, 0o600);
  const lock = {
    close: () => {
      if (!held.delete(lock)) return;
      database.exec('ROLLBACK');
      database.close();
    },
  };
  held.add(lock);
  return lock;
}

/** Creates directories one by one: created recursively, a read-only file system is reported as a missing path. */
function makeDirectory(path: string): void {
  if (existsSync(path)) return;
  makeDirectory(dirname(path));
  mkdirSync(path, { mode: 0o700 });
}
