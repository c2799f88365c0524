import type { ProblemDetails, TableSummary } from '@pindro/contract/light';
import type { Json, JsonObject } from '@pindro/core/browser';
import { SvelteMap } from 'svelte/reactivity';
import { api, problemOf } from '../state/api.js';
import { live } from '../state/live.svelte.js';
import { notices } from '../state/notices.svelte.js';
import { restoreRemoved } from '../state/removing.svelte.js';

export type Row = JsonObject & { id: number };

const PAGE = 100;
/** Number of cached pages; the least recently used are evicted. */
const MOST_PAGES = 40;
const WAIT = 120;

export interface Sort {
  column: string;
  descending: boolean;
}
export interface Filter {
  search: string;
  where: JsonObject;
  sort: Sort | null;
}

/** Rows of a table: loaded when they scroll into view, edited in place. */
export class Grid {
  count = $state(0);
  /** In how many rows a text was looked for, where not in all of them. */
  searched = $state<number | null>(null);
  loaded = $state(false);
  problem = $state.raw<ProblemDetails | null>(null);
  columns = $state.raw<TableSummary['columns']>([]);
  #pages = new SvelteMap<number, Row[]>();
  #asked = new Set<number>();
  #turn = 0;
  #last: Filter | null = null;

  /** Must be made while a component is set up. */
  constructor(
    readonly table: string,
    private readonly filter: () => Filter,
  ) {
    $effect(() => {
      const filter = this.filter();
      const timer = setTimeout(() => this.#begin(filter), this.#last === null ? 0 : WAIT);
      return () => clearTimeout(timer);
    });
    $effect(() => {
      let timer: ReturnType<typeof setTimeout> | undefined;
      const off = live.on((what, name) => {
        if (what !== 'everything' && !((what === 'table' || what === 'columns') && name === this.table)) return;
        clearTimeout(timer);
        timer = setTimeout(() => this.refresh(), 300);
      });
      return () => {
        clearTimeout(timer);
        off();
      };
    });
  }

  row(index: number): Row | undefined {
    return this.#pages.get(Math.floor(index / PAGE))?.[index % PAGE];
  }

  /** Loads visible pages that are missing. */
  look(from: number, to: number): void {
    for (let page = Math.floor(from / PAGE); page <= Math.floor(to / PAGE); page++) void this.#load(page);
  }

  /** Reloads cached pages; the present rows stay visible until then. */
  refresh(): void {
    const kept = [...this.#pages.keys()].slice(-4);
    this.#asked.clear();
    for (const page of this.#pages.keys()) if (!kept.includes(page)) this.#pages.delete(page);
    for (const page of kept.length > 0 ? kept : [0]) void this.#load(page);
  }

  #begin(filter: Filter): void {
    this.#last = filter;
    this.#turn++;
    this.#asked.clear();
    void this.#load(0, true);
  }

  async #load(page: number, anew = false): Promise<void> {
    if (this.#asked.has(page)) return;
    this.#asked.add(page);
    const turn = this.#turn;
    const { search, where, sort } = this.#last ?? this.filter();
    try {
      const answer = await api.tableRows({
        name: this.table,
        query: {
          ...{ limit: PAGE, skip: page * PAGE, search },
          ...(Object.keys(where).length > 0 && { where: JSON.stringify(where) }),
          ...(sort && { sort: sort.column, descending: String(sort.descending) as 'true' }),
        },
      });
      if (turn !== this.#turn) return;
      if (anew) this.#pages.clear();
      this.#pages.delete(page);
      this.#pages.set(page, answer.items as Row[]);
      const oldest = this.#pages.keys().next().value;
      if (this.#pages.size > MOST_PAGES && oldest !== undefined) {
        this.#pages.delete(oldest);
        this.#asked.delete(oldest);
      }
      this.count = answer.count;
      this.searched = answer.searched;
      this.columns = answer.columns;
      this.problem = null;
    } catch (error) {
      if (turn === this.#turn) this.problem = problemOf(error);
      this.#asked.delete(page);
    } finally {
      this.loaded = true;
    }
  }

  /** Saves a value; it is displayed immediately and reverted on rejection. */
  async put(index: number, column: string, value: Json): Promise<void> {
    const row = this.row(index);
    if (!row || row[column] === value) return;
    // Another cell of the row may have changed, and the rows may have been reloaded.
    const show = (shown: Json) => {
      const now = this.row(index);
      if (now?.id === row.id) this.#show(index, { ...now, [column]: shown });
    };
    show(value);
    try {
      const { row: kept } = await api.updateRow({
        name: this.table,
        row: String(row.id),
        body: { set: { [column]: value } },
      });
      show((kept as Row)[column] ?? null);
    } catch (error) {
      show(row[column] ?? null);
      const problem = problemOf(error);
      notices.tell(problem.detail, { problem });
    }
  }

  #show(index: number, row: Row): void {
    const page = Math.floor(index / PAGE);
    const rows = this.#pages.get(page);
    if (rows) this.#pages.set(page, rows.with(index % PAGE, row));
  }

  async remove(index: number): Promise<void> {
    const row = this.row(index);
    if (!row) return;
    try {
      const { removal } = await api.removeRow({ name: this.table, row: String(row.id) });
      notices.tell(`Removed row ${row.id}.`, { action: restoreRemoved(removal.id) });
      this.refresh();
    } catch (error) {
      const problem = problemOf(error);
      notices.tell(problem.detail, { problem });
    }
  }
}
