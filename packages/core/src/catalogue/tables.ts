import type { Entries } from './entry.js';

/** Rows of tables. */
export const tables = {
  table_refused: {
    message: 'Table "{table}" refused the change: {why}',
    hint: 'Follow the branch "refused" to say what should happen then.',
    http: 409,
    caller: 'It does not fit what is there now: look again before you send another value.',
  },
  value_refused: {
    message: 'Column "{column}" of "{table}" does not take {got}',
    hint: 'It takes {wants}.',
    http: 422,
    caller: true,
  },
} as const satisfies Entries;
