import {
  chmodSync,
  closeSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  readSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { PindroError } from '@pindro/core';

const FOLDER = 'backups';
const MAKING = '.making';
/** In this order: rows that are newer than the record are answered from the ledger, a record newer than its rows would lie. */
const DATABASES = ['runs.db', 'pindro.db'];
/** Encryption key; missing if it comes from the settings. */
const KEY = 'secret.key';
const NAME = /^\d{4}-\d{2}-\d{2}T\d{2}-\d{2}-\d{2}(?:-\d+)?$/;

export interface Backup {
  id: string;
  madeAt: Date;
  bytes: number;
  folder: string;
}

/** Copies of the whole data directory, made while the service runs. */
export class BackupStore {
  #under: Promise<Backup> | null = null;

  /** @param home folder for backups; a folder of the data directory if omitted */
  constructor(
    private readonly data: string,
    private readonly home: string = join(data, FOLDER),
  ) {
    // One that a crash cut is no backup.
    const folder = home;
    if (!existsSync(folder)) return;
    for (const name of readdirSync(folder))
      if (name.endsWith(MAKING)) rmSync(join(folder, name), { recursive: true, force: true });
  }

  list(): Backup[] {
    const folder = this.home;
    if (!existsSync(folder)) return [];
    return readdirSync(folder)
      .filter((id) => NAME.test(id))
      .sort()
      .reverse()
      .map((id) => this.get(id));
  }

  get(id: string): Backup {
    const folder = join(this.home, id);
    if (!NAME.test(id) || !existsSync(folder))
      throw new PindroError('not_found', {
        what: 'backup',
        name: id.slice(0, 80),
        suggestion: 'List them with "pindro backup --list".',
      });
    const bytes = readdirSync(folder).reduce((sum, file) => sum + statSync(join(folder, file)).size, 0);
    return { id, madeAt: statSync(folder).mtime, bytes, folder: resolve(folder) };
  }

  /** A backup that can be brought back. @throws not_found, backup_unusable */
  requireWhole(id: string): Backup {
    const backup = this.get(id);
    for (const file of DATABASES) {
      const path = join(backup.folder, file);
      const why = !existsSync(path) ? 'is missing' : isDatabase(path) ? null : 'is not a database';
      if (why) throw new PindroError('backup_unusable', { id, why: `${file} ${why}` });
    }
    return backup;
  }

  /** Whoever asks while one is being made gets that one. */
  make(): Promise<Backup> {
    this.#under ??= this.#copy().finally(() => {
      this.#under = null;
    });
    return this.#under;
  }

  async #copy(): Promise<Backup> {
    const base = new Date().toISOString().slice(0, 19).replaceAll(':', '-');
    let id = base;
    for (let count = 2; existsSync(join(this.home, id)); count++) id = `${base}-${count}`;
    const folder = join(this.home, id);
    // Only a whole one has the name of one.
    const making = folder + MAKING;
    try {
      rmSync(making, { recursive: true, force: true });
      mkdirSync(making, { recursive: true, mode: 0o700 });
      for (const file of DATABASES) {
        await inThread(join(this.data, file), join(making, file));
        chmodSync(join(making, file), 0o600);
      }
      if (existsSync(join(this.data, KEY))) copyFileSync(join(this.data, KEY), join(making, KEY));
      renameSync(making, folder);
    } catch (error) {
      rmSync(making, { recursive: true, force: true });
      throw new PindroError('storage_failed', { why: (error as Error).message }, { cause: error });
    }
    return this.get(id);
  }

  remove(id: string): void {
    rmSync(this.get(id).folder, { recursive: true });
  }
}

/** Whether a file begins as those of SQLite do (SQLite database file format, section 1.3). */
function isDatabase(path: string): boolean {
  const file = openSync(path, 'r');
  try {
    const beginning = Buffer.alloc(16);
    readSync(file, beginning);
    return beginning.toString('latin1') === 'SQLite format 3\0';
  } finally {
    closeSync(file);
  }
}

/** Puts a backup in place of what is in a data directory that nobody uses now. */
export function putInPlace(data: string, folder: string): void {
  const files = [...DATABASES, KEY].filter((file) => existsSync(join(folder, file)));
  // Copied to a temporary file first, so that an interruption leaves each file complete.
  for (const file of files) {
    copyFileSync(join(folder, file), join(data, file + MAKING));
    chmodSync(join(data, file + MAKING), 0o600);
  }
  for (const file of files) {
    for (const rest of ['-wal', '-shm']) rmSync(join(data, file + rest), { force: true });
    renameSync(join(data, file + MAKING), join(data, file));
  }
}

function inThread(from: string, to: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./copy-thread.js', import.meta.url), { workerData: { from, to } });
    worker.once('error', reject);
    worker.once('exit', (code) => (code === 0 ? resolve() : reject(new Error(`the copy process exited with ${code}`))));
  });
}
