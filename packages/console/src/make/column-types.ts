import type { ColumnType } from '@pindro/contract/light';

/** What a column holds, in words. */
export const COLUMN_TYPES: Record<ColumnType, string> = {
  text: 'text',
  number: 'number',
  whole: 'integer',
  boolean: 'boolean',
  date: 'date',
  json: 'JSON',
};
