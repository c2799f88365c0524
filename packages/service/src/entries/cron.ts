import { PindroError } from '@pindro/core';
import { Cron } from 'croner';

const FIELDS = ['minute', 'hour', 'day of month', 'month', 'day of week'];

/**
 * Returns when a schedule is due after a moment. The expression has the five fields of crontab(5), with the usual
 * extensions `L` (the last day of the month), `5L` (its last Friday), `5#2` (its second one) and `?` (any).
 * @throws never_comes
 */
export function nextDue({ cron, zone }: { cron: string; zone: string }, after: Date): Date {
  const refuse = (why: string) => new PindroError('never_comes', { cron, why }, { at: '/settings/cron' });
  const fields = cron.trim().split(/\s+/);
  if (fields.length !== FIELDS.length) throw refuse(`it has ${fields.length} of the five fields ${FIELDS.join(', ')}`);
  let next: Date | null;
  try {
    const options = { ...(zone && { timezone: zone }), legacyMode: true, paused: true, mode: '5-part' };
    next = new Cron(fields.map(fieldOf).join(' '), options).nextRun(after);
  } catch (error) {
    throw refuse((error as Error).message.replace(/^CronPattern: /, ''));
  }
  if (!next) throw refuse('no date matches it');
  return next;
}

/** Returns a field in the library's notation, in which the last Friday is `5#L` and `?` means the present value. */
function fieldOf(text: string, index: number): string {
  if (text === '?') return '*';
  return index < 4 ? text : text.replace(/([0-7]|[A-Za-z]{3})L/g, '$1#L');
}
