import { PindroError } from '../../errors/errors.js';
import { type BuiltIn, gives } from './built-in.js';

/** What time it is, in the workspace's time zone or another one. */
export const clock: BuiltIn = {
  name: 'clock',
  description: 'Returns the time, the date and the day of the week. Use it whenever a date depends on today.',
  schema: {
    type: 'object',
    properties: {
      zone: { type: 'string', description: 'A time zone such as Europe/Vienna; optional' },
    },
  },
  reads: true,
  call: async ({ zone }, { run: { ports } }) => {
    const [now, usual] = await Promise.all([ports.clock.now(), ports.clock.zone()]);
    const timeZone = typeof zone === 'string' && zone !== '' ? zone : usual;
    try {
      const parts = new Intl.DateTimeFormat('sv-SE', { timeZone, dateStyle: 'short', timeStyle: 'medium' }).format(now);
      const weekday = new Intl.DateTimeFormat('en', { timeZone, weekday: 'long' }).format(now);
      const [date = '', time = ''] = parts.split(' ');
      return gives({ date, time, weekday, zone: timeZone, utc: new Date(now).toISOString() });
    } catch (error) {
      const fix = 'Use an IANA time zone, such as Europe/Vienna, or omit it.';
      const why = `there is no time zone "${timeZone}"`;
      throw new PindroError('arguments_refused', { tool: 'clock', why, fix }, { cause: error, at: '/zone' });
    }
  },
};
