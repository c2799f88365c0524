import { humanDuration, humanSize } from '@pindro/core/browser';

const day = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium' });
const clock = new Intl.DateTimeFormat(undefined, { timeStyle: 'short' });
const exactly = new Intl.DateTimeFormat(undefined, { dateStyle: 'full', timeStyle: 'long' });
const relative = new Intl.RelativeTimeFormat(undefined, { numeric: 'auto', style: 'short' });

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;

/** A moment as people say it: how long ago within a day, the time yesterday, else the day. */
export function moment(iso: string | null, now = Date.now()): string {
  if (iso === null) return 'never';
  const date = new Date(iso);
  const away = date.getTime() - now;
  const distance = Math.abs(away);
  if (distance < 45_000) return away > 0 ? 'in a moment' : 'just now';
  if (distance < HOUR) return relative.format(Math.round(away / MINUTE), 'minute');
  if (distance < 12 * HOUR || isSameDay(date, new Date(now))) return relative.format(Math.round(away / HOUR), 'hour');
  if (isSameDay(date, new Date(now - 24 * HOUR))) return `${relative.format(-1, 'day')}, ${clock.format(date)}`;
  return day.format(date);
}

const isSameDay = (a: Date, b: Date) => a.toDateString() === b.toDateString();

/** The same, to the second, for whoever looks closer. */
export const exact = (iso: string): string => exactly.format(new Date(iso));
export const dayOf = (date: Date): string => day.format(date);

export function took(start: string, end: string | null): string {
  return end === null ? 'running' : humanDuration(Date.parse(end) - Date.parse(start));
}

/** A value in a line. */
export function brief(value: unknown, width = 120): string {
  const text = typeof value === 'string' ? value : (JSON.stringify(value) ?? '');
  return text.length > width ? `${text.slice(0, width - 1)}…` : text;
}

/** `reserve_bunks` as people say it. */
export const words = (name: string) => name.replaceAll(/[_-]/g, ' ');
export const plural = (count: number, one: string, many = `${one}s`) =>
  `${count.toLocaleString()} ${count === 1 ? one : many}`;
export const withArticle = (word: string) => `${/^[aeiou]/i.test(word) ? 'an' : 'a'} ${word}`;
export { humanSize };
