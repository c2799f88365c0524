import type { ColumnType } from '@pindro/contract/light';

/** Descriptions of column types. */
export const COLUMN_TYPES: Record<ColumnType, string> = {
  text: 'text',
  number: 'number',
  whole: 'integer',
  boolean: 'boolean',
  date: 'date',
  json: 'JSON',
};
