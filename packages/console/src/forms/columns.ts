import type { ColumnType } from '@pindro/contract/light';
import type { JsonSchema } from '@pindro/core/browser';

const SCHEMAS: Record<ColumnType, JsonSchema> = {
  text: { type: 'string' },
  number: { type: 'number' },
  whole: { type: 'integer' },
  boolean: { type: 'boolean' },
  date: { type: 'string', format: 'date' },
  json: {},
};

/** What a column of a table takes, as a field has it. */
export const columnSchema = (type: ColumnType): JsonSchema => SCHEMAS[type];
