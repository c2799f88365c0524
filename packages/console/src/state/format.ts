import { humanDuration } from '@pindro/core/browser';

const day = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'medium' });
const clock = new Intl.DateTimeFormat(undefined, { timeStyle: 'medium' });

/** A moment in the reader's own words: the time alone when it is today. */
export function moment(iso: string | null): string {
  if (iso === null) return 'never';
  const date = new Date(iso);
  return date.toDateString() === new Date().toDateString() ? clock.format(date) : day.format(date);
}

export function took(start: string, end: string | null): string {
  return end === null ? 'under way' : humanDuration(Date.parse(end) - Date.parse(start));
}

/** A value in a line. */
export function brief(value: unknown, width = 120): string {
  const text = typeof value === 'string' ? value : (JSON.stringify(value) ?? '');
  return text.length > width ? `${text.slice(0, width - 1)}…` : text;
}

/** `reserve_bunks` as people say it. */
export const words = (name: string) => name.replaceAll(/[_-]/g, ' ');
export const plural = (count: number, one: string, many = `${one}s`) => `${count} ${count === 1 ? one : many}`;
