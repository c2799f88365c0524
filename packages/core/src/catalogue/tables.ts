import type { Entries } from './entry.js';

/** Rows of tables. */
export const tables = {
  table_refused: {
    message: 'Table "{table}" rejected the change: {why}',
    hint: 'To handle this case, add a step after the branch "refused".',
    http: 409,
    caller: 'The value conflicts with the present data: check it before you send another value.',
  },
  value_refused: {
    message: 'Column "{column}" of "{table}" does not accept {got}',
    hint: 'It accepts {wants}.',
    http: 422,
    caller: true,
  },
} as const satisfies Entries;
