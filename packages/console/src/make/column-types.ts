import type { ColumnType } from '@pindro/contract/light';

/** What a column holds, in words. */
export const COLUMN_TYPES: Record<ColumnType, string> = {
  text: 'text',
  number: 'number',
  whole: 'whole number',
  boolean: 'yes or no',
  date: 'date',
  json: 'anything (JSON)',
};
