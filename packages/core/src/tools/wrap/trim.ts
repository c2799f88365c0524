import type { z } from 'zod';
import { isObject, type Json, type JsonObject, setOwn } from '../../json/json.js';
import { bytesIn } from '../../json/size.js';
import { attribute } from '../../trace/spans/attributes.js';
import type { trimming } from '../settings.js';
import type { SourceTool } from '../source.js';

type Trimming = z.infer<typeof trimming>;

/** Forwards a part of a result. The trace has all of it. */
export const trimmed = (tool: SourceTool, how: Trimming): SourceTool => ({
  ...tool,
  call: async (given, calling) => {
    const answer = await tool.call(given, calling);
    const { data, left } = trimData(answer.data, how);
    const whole =
      answer.data === null ? answer.text : left.length > 0 || how.fields ? JSON.stringify(data) : answer.text;
    const most = how.size === undefined ? Number.POSITIVE_INFINITY : bytesIn(how.size);
    const text = whole.length > most ? whole.slice(0, most) : whole;
    const notes = [
      ...left,
      ...(text.length < whole.length ? [`the first ${text.length} of ${whole.length} characters`] : []),
    ];
    if (text.length < whole.length) calling.span.set({ [attribute.cutTo]: { shown: text.length, of: whole.length } });
    if (notes.length === 0 && !how.fields) return answer;
    calling.span.set({ [attribute.trimmed]: notes.length > 0 ? notes : ['some of the fields'] });
    const note = notes.length > 0 ? `\n\n(Partial result: ${notes.join('; ')}. Request less to see the rest.)` : '';
    // What was cut in the middle is no data any more.
    return { ...answer, data: text.length < whole.length ? answer.data && null : data, text: text + note };
  },
});

/** @returns the data with the selected fields and rows, and what was omitted, as sentences */
function trimData(value: Json, { fields, rows }: Trimming): { data: Json; left: string[] } {
  const left: string[] = [];
  const list = (items: Json[], name: string): Json[] => {
    if (rows !== undefined && items.length > rows) left.push(`${rows} of ${items.length} ${name}`);
    return items.slice(0, rows).map((item) => (fields && isObject(item) ? pick(item, fields) : item));
  };
  if (Array.isArray(value)) return { data: list(value, 'rows'), left };
  if (!isObject(value)) return { data: value, left };
  // A list inside of an object is what a result is about; the fields are then those of its rows.
  const hasList = Object.values(value).some((part) => Array.isArray(part) && part.some(isObject));
  const shown = fields && !hasList ? pick(value, fields) : value;
  const data: JsonObject = {};
  for (const [name, part] of Object.entries(shown)) setOwn(data, name, Array.isArray(part) ? list(part, name) : part);
  return { data, left };
}

function pick(object: JsonObject, fields: readonly string[]): JsonObject {
  const picked: JsonObject = {};
  for (const field of fields) {
    const value = field
      .split('.')
      .reduce<Json | undefined>(
        (part, name) => (isObject(part) && Object.hasOwn(part, name) ? part[name] : undefined),
        object,
      );
    if (value !== undefined) setOwn(picked, field, value);
  }
  return picked;
}
