import { type CellType, cellText, type Json, readCell } from '@pindro/core/browser';
import type { Grid } from './grid.svelte.js';

/** Which cell one is at, and what is typed into it. */
export class Cursor {
  row = $state(0);
  column = $state(0);
  /** Text of the edited cell; null if none is edited. */
  draft = $state<string | null>(null);
  wrong = $state('');

  constructor(
    private readonly grid: Grid,
    private readonly moved: () => void,
  ) {}

  get type(): CellType | null {
    return this.grid.columns[this.column - 1]?.type ?? null;
  }
  get name(): string {
    return this.grid.columns[this.column - 1]?.name ?? 'id';
  }
  get value(): Json {
    return this.grid.row(this.row)?.[this.name] ?? null;
  }

  to(row: number, column: number): void {
    this.row = Math.max(0, Math.min(this.grid.count - 1, row));
    this.column = Math.max(0, Math.min(this.grid.columns.length, column));
    this.moved();
  }

  /** Starts editing with the present value, or with typed text. */
  begin(typed?: string): void {
    if (this.type === null || this.grid.row(this.row) === undefined) return;
    if (this.type === 'boolean') return void this.grid.put(this.row, this.name, this.value !== true);
    this.draft = typed ?? cellText(this.value, this.type);
    this.wrong = '';
  }

  /** Does not wait until it is kept: whoever types on has long been in the next cell by then.
   * @returns whether what was typed can be kept */
  end(keep: boolean): boolean {
    if (this.draft === null) return true;
    if (!keep) {
      this.draft = null;
      this.moved();
      return true;
    }
    const read = readCell(this.draft, this.type!);
    if ('wants' in read) {
      this.wrong = `The value must be ${read.wants}.`;
      return false;
    }
    const { row, name } = this;
    this.draft = null;
    this.moved();
    void this.grid.put(row, name, read.value);
    return true;
  }

  clear(): void {
    if (this.type !== null) void this.grid.put(this.row, this.name, null);
  }

  /** @returns whether the key was meant for the grid */
  pressed(event: KeyboardEvent, page: number): boolean {
    const { row, column, draft } = this;
    if (draft !== null) return this.#editing(event);
    const command = event.ctrlKey || event.metaKey;
    const moves: Record<string, [number, number]> = {
      ArrowDown: [row + 1, column],
      ArrowUp: [row - 1, column],
      ArrowLeft: [row, column - 1],
      ArrowRight: [row, column + 1],
      PageDown: [row + page, column],
      PageUp: [row - page, column],
      Home: command ? [0, 0] : [row, 0],
      End: command ? [this.grid.count - 1, this.grid.columns.length] : [row, this.grid.columns.length],
    };
    const move = moves[event.key];
    if (move) this.to(...move);
    else if (event.key === 'Enter' || event.key === 'F2') this.begin();
    else if (event.key === ' ' && this.type === 'boolean') this.begin();
    else if (event.key === 'Delete' && command) void this.grid.remove(row);
    else if (event.key === 'Delete' || event.key === 'Backspace') this.clear();
    else if (event.key.length === 1 && !command && !event.altKey) {
      if (this.type === null || this.type === 'boolean') return false;
      this.begin(event.key);
    } else return false;
    return true;
  }

  #editing(event: KeyboardEvent): boolean {
    if (event.key === 'Escape') this.end(false);
    else if (event.key === 'Enter' && !event.shiftKey) {
      if (this.end(true)) this.to(this.row + 1, this.column);
    } else if (event.key === 'Tab') {
      if (this.end(true)) this.to(this.row, this.column + (event.shiftKey ? -1 : 1));
    } else return false;
    return true;
  }
}
