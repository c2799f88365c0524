import pc from 'picocolors';

const visible = (text: string) => text.replace(/\x1b\[[0-9;]*m/g, '').length;

/** Columns of the terminal, or null where what is printed goes into a file or another program. */
export const terminalWidth = (): number | null => {
  const said = Number(process.env.COLUMNS);
  if (Number.isInteger(said) && said >= MIN_WIDTH) return said;
  return process.stdout.isTTY ? (process.stdout.columns ?? 80) : null;
};
const MIN_WIDTH = 20;
/** No column is made narrower than this. */
const NARROWEST = 8;
const GAP = 2;

/**
 * Returns rows under headings. At a terminal the widest columns are shortened until a row fits a line. Columns that
 * still do not fit are omitted and listed below.
 */
export function table(headings: string[], rows: string[][], width = terminalWidth()): string {
  const widths = headings.map((heading, column) =>
    Math.max(heading.length, ...rows.map((row) => visible(row[column] ?? ''))),
  );
  let count = headings.length;
  if (width !== null) count = fitInto(widths, width);
  const line = (cells: string[]) =>
    cells
      .slice(0, count)
      .map((cell, column) => {
        const text = width === null ? cell : shorten(cell, widths[column]!);
        return column === count - 1 ? text : text + ' '.repeat(Math.max(0, widths[column]! - visible(text)));
      })
      .join(' '.repeat(GAP));
  const left = headings.slice(count);
  const note =
    left.length > 0 ? [pc.dim(`Hidden columns: ${left.join(', ')}. Widen the terminal, or add --json.`)] : [];
  return [pc.dim(line(headings)), ...rows.map(line), ...note].join('\n');
}

/** Shortens the widest columns until they fit. @returns how many columns fit */
function fitInto(widths: number[], width: number): number {
  const sum = (count: number) => widths.slice(0, count).reduce((total, one) => total + one + GAP, -GAP);
  let count = widths.length;
  while (sum(count) > width) {
    // The first column is what a row is called by: it is copied, and stays whole.
    const shown = widths.slice(1, count);
    const widest = Math.max(0, ...shown);
    if (widest > NARROWEST)
      widths[shown.indexOf(widest) + 1] = Math.max(NARROWEST, widest - Math.max(1, sum(count) - width));
    else if (count > 1) count--;
    else break;
    // Room that a column left is given back to nobody: the first ones are the most telling.
  }
  return count;
}

/** A cell with its colours, at most so wide. */
function shorten(cell: string, width: number): string {
  if (visible(cell) <= width) return cell;
  const colour = /^((?:\x1b\[[0-9;]*m)*)([\s\S]*?)((?:\x1b\[[0-9;]*m)*)$/.exec(cell)!;
  const plain = cell.replace(/\x1b\[[0-9;]*m/g, '');
  return `${colour[1]}${plain.slice(0, width - 1)}…${colour[3]}`;
}

/** Names and values under one another. */
export function facts(entries: [string, string][]): string {
  const width = Math.max(...entries.map(([name]) => name.length));
  return entries.map(([name, value]) => `${pc.dim(name.padEnd(width))}  ${value}`).join('\n');
}

const STATES: Record<string, (text: string) => string> = {
  done: pc.green,
  ready: pc.green,
  ok: pc.green,
  failed: pc.red,
  error: pc.red,
  unreachable: pc.red,
  refused: pc.red,
  interrupted: pc.red,
  running: pc.cyan,
  waiting: pc.yellow,
  cancelled: pc.yellow,
};
export const state = (text: string) => (STATES[text] ?? pc.dim)(text);

/** A moment as people read it, in their own time zone. */
export function moment(iso: string | null): string {
  if (iso === null) return '-';
  const date = new Date(iso);
  const two = (value: number) => String(value).padStart(2, '0');
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())} ${two(date.getHours())}:${two(date.getMinutes())}:${two(date.getSeconds())}`;
}

/** A value in one line, cut when it is long. */
export function brief(value: unknown, width = 100): string {
  const text = typeof value === 'string' ? value.replace(/\s+/g, ' ') : (JSON.stringify(value) ?? '');
  return text.length > width ? `${text.slice(0, width - 1)}…` : text;
}
