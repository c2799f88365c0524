import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { PindroError } from '@pindro/core';
import Sqlite from 'better-sqlite3';
import { type BetterSQLite3Database, drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import { Driver } from './driver.js';

export type Database = BetterSQLite3Database & { driver: Driver };

/** Told when a file from an earlier version was brought up to date, and where a copy of it stands. */
export type Migrated = (file: string, copy: string) => void;

/**
 * Opens a database file and brings its tables up to date with the migrations of that name. A file from an earlier
 * version is copied first; one from a later version is left untouched.
 * @throws data_directory
 */
export function openDatabase(
  path: string,
  migrations: 'config' | 'runs',
  migrated: Migrated = () => {},
  /** Start of the service: copies of one start share a folder. */
  start = new Date(),
): Database {
  const folder = fileURLToPath(new URL(`../../../migrations/${migrations}`, import.meta.url));
  const newest = newestOf(folder);
  const applied = existsSync(path) ? lastApplied(path) : null;
  if (applied !== null && applied > newest)
    throw new PindroError('data_directory', {
      path,
      why: 'it was created by a newer version of Pindro',
      fix: 'Start that version, or choose another directory with --data. Nothing was changed.',
    });
  const fresh = applied === null;
  const driver = new Driver(path, { shrinks: migrations === 'runs' && fresh });
  if (!fresh && applied < newest) migrated(path, copyOf(driver, path, start));
  const database = drizzle(driver as unknown as Sqlite.Database) as BetterSQLite3Database;
  migrate(database, { migrationsFolder: folder });
  // Only a newly written file can be shrunk later.
  if (!fresh && applied < newest && migrations === 'runs') {
    driver.exec('PRAGMA auto_vacuum = INCREMENTAL');
    driver.exec('VACUUM');
  }
  return Object.assign(database, { driver });
}

/** When the newest migration there is was made. */
function newestOf(folder: string): number {
  const { entries } = JSON.parse(readFileSync(join(folder, 'meta/_journal.json'), 'utf8')) as {
    entries: { when: number }[];
  };
  return Math.max(...entries.map(({ when }) => when));
}

/** When the newest migration that a file has was made, or null where it has none. Changes nothing. */
function lastApplied(path: string): number | null {
  const database = new Sqlite(path);
  try {
    const row = database.prepare('SELECT max(created_at) AS at FROM __drizzle_migrations').get() as { at: number };
    return row.at === null ? null : Number(row.at);
  } catch {
    return null;
  } finally {
    database.close();
  }
}

function copyOf(driver: Driver, path: string, start: Date): string {
  const folder = join(dirname(path), `before-${start.toISOString().slice(0, 19).replaceAll(':', '-')}`);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const copy = join(folder, basename(path));
  driver.exec(`VACUUM INTO '${copy.replaceAll("'", "''")}'`);
  return copy;
}
