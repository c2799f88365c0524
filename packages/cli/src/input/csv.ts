import type { TableSummary } from '@pindro/contract';
import type { Json } from '@pindro/core/browser';
import { usage } from '../usage.js';

type Column = TableSummary['columns'][number];

/** A cell of a CSV file as its column has it; an empty one is no value. @throws with the place where it does not fit */
export function fromCell(text: string, { name, type }: Column, where: string): Json {
  if (text === '') return null;
  const refuse = (wants: string) =>
    usage(
      `${where}: "${text.slice(0, 60)}" in column "${name}" is not ${wants}`,
      'No row was added; mend the file and import it again.',
    );
  switch (type) {
    case 'number':
    case 'whole': {
      const value = Number(text);
      if (!Number.isFinite(value) || (type === 'whole' && !Number.isSafeInteger(value)))
        throw refuse(type === 'whole' ? 'a whole number' : 'a number');
      return value;
    }
    case 'boolean':
      if (text === 'true') return true;
      if (text === 'false') return false;
      throw refuse('true or false');
    case 'date':
      if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) throw refuse('a date such as 2027-02-14');
      return text;
    case 'json':
      try {
        return JSON.parse(text) as Json;
      } catch {
        throw refuse('JSON');
      }
    default:
      return text;
  }
}

/** A value as a cell, so that {@link fromCell} gives it back. */
export const toCell = (value: Json): string =>
  value === null ? '' : typeof value === 'string' ? value : JSON.stringify(value);
