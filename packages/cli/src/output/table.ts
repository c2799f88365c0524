import pc from 'picocolors';

const visible = (text: string) => text.replace(/\x1b\[[0-9;]*m/g, '').length;

/** Rows under headings, in columns as wide as they need to be; the last one may run on. */
export function table(headings: string[], rows: string[][]): string {
  const widths = headings.map((heading, column) =>
    Math.max(heading.length, ...rows.map((row) => visible(row[column] ?? ''))),
  );
  const line = (cells: string[]) =>
    cells
      .map((cell, column) =>
        column === cells.length - 1 ? cell : cell + ' '.repeat(Math.max(0, widths[column]! - visible(cell))),
      )
      .join('  ');
  return [pc.dim(line(headings)), ...rows.map(line)].join('\n');
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
