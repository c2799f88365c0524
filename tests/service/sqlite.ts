import Sqlite from 'better-sqlite3';

/** Opens a database file beside the service, as anybody could, to see what is really in it. */
export class DatabaseSync {
  readonly #database: { prepare(sql: string): { all(values: unknown[]): Record<string, unknown>[] }; close(): void };
  constructor(path: string) {
    this.#database = new Sqlite(path) as never;
  }
  rows(sql: string): Record<string, unknown>[] {
    return this.#database.prepare(sql).all([]);
  }
  close(): void {
    this.#database.close();
  }
}
