import type { SavedFilter } from '@pindro/contract';
import { didYouMean, PindroError } from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { runFilters } from './tables.js';

/** More are not kept: a list of them would help nobody. */
const MOST = 200;

/** Filters of runs under their names. */
export class FilterStore {
  constructor(private readonly database: Database) {}

  list(): SavedFilter[] {
    const rows = this.database.select().from(runFilters).orderBy(asc(runFilters.name)).all();
    return rows.map(({ at, ...row }) => ({ ...row, at: new Date(at).toISOString() }));
  }

  /** One of that name is changed. @throws request_invalid where there are too many */
  save(name: string, query: Record<string, string>, by: string): SavedFilter {
    if (!/^[^\p{C}]{1,60}$/u.test(name) || name !== name.trim())
      throw new PindroError('request_invalid', { why: 'The name of a saved filter must have 1 to 60 characters' });
    const names = this.list().map((one) => one.name);
    if (!names.includes(name) && names.length >= MOST)
      throw new PindroError('request_invalid', { why: `There are ${MOST} saved filters, the limit; remove one first` });
    const values = { query, by, at: Date.now() };
    this.database
      .insert(runFilters)
      .values({ name, ...values })
      .onConflictDoUpdate({ target: runFilters.name, set: values })
      .run();
    return this.list().find((one) => one.name === name)!;
  }

  /** @throws not_found */
  remove(name: string): void {
    const { changes } = this.database.delete(runFilters).where(eq(runFilters.name, name)).run();
    if (changes > 0) return;
    const suggestion =
      didYouMean(
        name,
        this.list().map((one) => one.name),
      ) || 'List them with "pindro run filters".';
    throw new PindroError('not_found', { what: 'saved filter', name, suggestion });
  }
}
