import type { Json } from '../json/json.js';

/** What a column of a table holds. */
export type CellType = 'text' | 'number' | 'whole' | 'boolean' | 'date' | 'json';

/** A cell that was read, or what it should have been. */
export type ReadCell = { value: Json } | { wants: string };

/** A text as the value of a column; an empty one is no value. */
export function readCell(text: string, type: CellType): ReadCell {
  if (text === '') return { value: null };
  switch (type) {
    case 'number':
    case 'whole': {
      const value = Number(text);
      const sound = text.trim() !== '' && (type === 'whole' ? Number.isSafeInteger(value) : Number.isFinite(value));
      return sound ? { value } : { wants: type === 'whole' ? 'an integer' : 'a number' };
    }
    case 'boolean':
      return text === 'true' || text === 'false' ? { value: text === 'true' } : { wants: 'true or false' };
    case 'date':
      return /^\d{4}-\d{2}-\d{2}$/.test(text) ? { value: text } : { wants: 'a date such as 2027-02-14' };
    case 'json':
      try {
        return { value: JSON.parse(text) as Json };
      } catch {
        return { wants: 'JSON' };
      }
    default:
      return { value: text };
  }
}

/** Returns a value as a text, so that {@link readCell} returns the value. A text in a JSON column is quoted. */
export const cellText = (value: Json, type?: CellType): string =>
  value === null ? '' : typeof value === 'string' && type !== 'json' ? value : JSON.stringify(value);
