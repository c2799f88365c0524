import { fileURLToPath } from 'node:url';
import { type BetterSQLite3Database, drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import { Door } from './door.js';

export type Database = BetterSQLite3Database & { door: Door };

/** Opens a database file and brings its tables up to date with the migrations of that name. */
export function openDatabase(path: string, migrations: 'config' | 'runs'): Database {
  const door = new Door(path);
  const database = drizzle(door as never) as BetterSQLite3Database;
  migrate(database, { migrationsFolder: fileURLToPath(new URL(`../../../migrations/${migrations}`, import.meta.url)) });
  return Object.assign(database, { door });
}
