import type { JsonObject } from '@pindro/core';
import { and, desc, eq, lt } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { type Insert, inserter } from '../record/insert.js';
import { rowHistory } from './history-tables.js';

/** Who changes rows: a person at the console, or a step of a run on behalf of its caller. */
export interface By {
  name: string;
  run?: string;
  step?: string;
}
export interface HistoryEntry {
  at: number;
  did: string;
  by: string;
  run: string | null;
  step: string | null;
  columns: string[];
}

const DAY = 24 * 3600 * 1000;
/** So long what was done to rows is kept: as long as the runs that may tell more. */
const KEPT = 90 * DAY;
/** Maximum number of displayed entries of a row. */
const SHOWN = 200;

/** What was done to rows and by whom, in the same transaction as the rows. */
export class RowHistory {
  readonly #insert: Insert;
  #tidied = 0;

  constructor(
    private readonly database: Database,
    bus: Bus,
  ) {
    this.#insert = inserter(database, rowHistory, ['table', 'row', 'at', 'did', 'by', 'run', 'step', 'columns']);
    bus.on('removing', (what, name, { putAside }) => {
      if (what === 'table') putAside('row_history', 'table_name', name);
    });
  }

  enter(
    table: string,
    rows: readonly JsonObject[],
    did: 'added' | 'changed',
    by: By,
    columns: readonly string[],
  ): void {
    const at = Date.now();
    const set = JSON.stringify(columns);
    for (const { id } of rows)
      this.#insert({
        ...{ table, row: Number(id), at, did, by: by.name },
        ...{ run: by.run ?? null, step: by.step ?? null, columns: set },
      });
    this.#tidy(at);
  }

  /** The latest first. */
  of(table: string, row: number): HistoryEntry[] {
    return this.database
      .select()
      .from(rowHistory)
      .where(and(eq(rowHistory.table, table), eq(rowHistory.row, row)))
      .orderBy(desc(rowHistory.id))
      .limit(SHOWN)
      .all()
      .map(({ at, did, by, run, step, columns }) => ({
        ...{ at, did, by, run, step },
        columns: JSON.parse(columns) as string[],
      }));
  }

  callOtherwise(from: string, to: string): void {
    this.database.update(rowHistory).set({ table: to }).where(eq(rowHistory.table, from)).run();
  }

  #tidy(now: number): void {
    if (now - this.#tidied < DAY) return;
    this.#tidied = now;
    this.database
      .delete(rowHistory)
      .where(lt(rowHistory.at, now - KEPT))
      .run();
  }
}
