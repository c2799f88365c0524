import { isObject, type JsonSchema } from '../../json/json.js';

export const READS = new Set('get list find search show read look lookup check count fetch view query'.split(' '));
export const WRITES = new Set(
  'create add reserve make insert send update change edit delete remove cancel clear put write save upload'.split(' '),
);
/** Names that could stand on any tool. */
const EMPTY = new Set(
  'a do run call tool flow test data main it my the new process handle execute task thing action api my_tool misc helper util function step request endpoint workflow'.split(
    ' ',
  ),
);

export const wordsOf = (text: string): string[] => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];

/** Whether a name tells nothing: every word of it could stand on any tool, or it is a number. */
export const isUninformative = (name: string): boolean =>
  wordsOf(name.replaceAll('_', ' ')).every(
    (word) => EMPTY.has(word) || /^\d+$/.test(word) || /^(tool|flow|test)\d+$/.test(word),
  );

export interface Argument {
  name: string;
  schema: JsonSchema;
  required: boolean;
  description: string;
}

export function argumentsOf(schema: JsonSchema): Argument[] {
  const required = Array.isArray(schema.required) ? schema.required : [];
  return Object.entries(isObject(schema.properties) ? schema.properties : {}).map(([name, property]) => ({
    name,
    schema: isObject(property) ? property : {},
    required: required.includes(name),
    description: isObject(property) && typeof property.description === 'string' ? property.description.trim() : '',
  }));
}

export const listed = (names: readonly string[]): string =>
  names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
export const plainName = (name: string) => capital(name.replaceAll('_', ' '));

const FORMATS: Record<string, string> = {
  date: 'as a date, such as 2027-02-14',
  'date-time': 'as a date-time, such as 2027-02-14T09:30:00Z',
  time: 'as a time, such as 09:30',
  email: 'as an email address',
  uri: 'as a web address',
};

/** A description of an argument made from what its schema says. */
export function describeArgument({ name, schema }: Argument): string {
  const choices = Array.isArray(schema.enum) ? `: one of ${listed(schema.enum.map(String))}` : '';
  const bounds = [
    schema.minimum !== undefined && `from ${schema.minimum}`,
    schema.maximum !== undefined && `up to ${schema.maximum}`,
  ].filter(Boolean);
  const format = typeof schema.format === 'string' && FORMATS[schema.format] ? `, ${FORMATS[schema.format]}` : '';
  const count = schema.type === 'integer' || schema.type === 'number' ? ', a number' : '';
  return `${plainName(name)}${choices || format || count}${bounds.length > 0 ? ` ${bounds.join(' ')}` : ''}.`;
}
