import type { Mistake } from '../../errors/errors.js';
import { isObject, type Json, type JsonObject, ownOf, pointer } from '../../json/json.js';
import { didYouMean } from '../../text/suggest.js';
import type { Surroundings, TableColumn } from '../environment.js';

const ID: TableColumn = { name: 'id', type: 'whole' };
const FITS: Record<string, (value: Json) => boolean> = {
  text: (value) => typeof value === 'string',
  date: (value) => typeof value === 'string' && /^\d{4}-\d{2}-\d{2}$/.test(value),
  number: (value) => typeof value === 'number',
  whole: (value) => Number.isSafeInteger(value),
  boolean: (value) => typeof value === 'boolean',
};
const WANTS: Record<string, string> = {
  text: 'text',
  date: 'a date such as 2027-02-14',
  number: 'a number',
  whole: 'an integer',
  boolean: 'true or false',
};

/** Columns that a table does not have, and plain values that they do not take. */
export function columnMistakes(config: JsonObject, tables: Surroundings['columns']): Mistake[] {
  const columns = typeof config.table === 'string' ? ownOf(tables ?? {}, config.table) : undefined;
  if (!columns) return [];
  const known = [ID, ...columns];
  const unknown = (name: string, at: PropertyKey[]): Mistake => ({
    at: pointer(at),
    message: `Table "${config.table}" has no column "${name}"`,
    hint: didYouMean(
      name,
      columns.map((column) => column.name),
    ),
  });
  const named = (value: Json | undefined, at: PropertyKey[]): Mistake[] =>
    typeof value === 'string' && !value.includes('${') && !known.some(({ name }) => name === value)
      ? [unknown(value, at)]
      : [];
  const keyed = (value: Json | undefined, at: PropertyKey[]): Mistake[] =>
    Object.entries(isObject(value) ? value : {}).flatMap(([name, given]) => {
      const column = known.find((one) => one.name === name);
      if (!column) return [unknown(name, [...at, name])];
      return plainValues(given).some((plain) => !(ownOf(FITS, column.type)?.(plain) ?? true))
        ? [
            {
              at: pointer([...at, name]),
              message: `Column "${name}" accepts ${WANTS[column.type]}, not ${JSON.stringify(given).slice(0, 60)}`,
            },
          ]
        : [];
    });
  const unless = isObject(config.unless) ? config.unless : {};
  return [
    ...['row', 'set', 'where'].flatMap((part) => keyed(config[part], [part])),
    ...(Array.isArray(config.any) ? config.any.flatMap((one, index) => keyed(one, ['any', index])) : []),
    ...keyed(unless.where, ['unless', 'where']),
    ...named(unless.sum, ['unless', 'sum']),
    ...named(config.sort, ['sort']),
    ...(Array.isArray(config.key) ? config.key.flatMap((one, index) => named(one, ['key', index])) : []),
  ];
}

/** Literal values of a column in a row or a condition. */
function plainValues(given: Json): Json[] {
  if (isObject(given)) {
    const [[operator, operand] = ['', null]] = Object.entries(given);
    if (operator === 'contains') return [];
    return operator === 'in' && Array.isArray(operand) ? operand.flatMap(plainValues) : plainValues(operand as Json);
  }
  if (given === null || Array.isArray(given) || (typeof given === 'string' && given.includes('${'))) return [];
  return [given];
}
