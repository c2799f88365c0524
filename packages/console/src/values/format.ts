import { isObject } from '@pindro/core/browser';

/** How a value is shown. Each look is one component and one line in `Value.svelte`. */
export type Look =
  | { look: 'plain'; text: string }
  | { look: 'long'; text: string }
  | { look: 'link'; url: string }
  | { look: 'moment'; at: string; day: boolean }
  | { look: 'size'; bytes: number }
  | { look: 'picture' | 'sound'; source: string }
  | { look: 'cut'; characters: number; beginning: string }
  | { look: 'line'; words: string[] }
  | { look: 'table'; columns: string[]; rows: Record<string, unknown>[] }
  | { look: 'tree' }
  | { look: 'nothing'; says: string };

const LONG = 700;
const MOMENT = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?(?:Z|[+-]\d{2}:\d{2})$/;
const DAY = /^\d{4}-\d{2}-\d{2}$/;
const SIZE = /(?:^|_)(?:bytes|size|length_bytes)$/i;
const MOST_COLUMNS = 12;
/** Texts up to this length are displayed in one line. */
const WORD = 60;

/** @param name the property that holds the value, which tells sizes from other numbers */
export function lookOf(value: unknown, name = ''): Look {
  if (value === null || value === undefined) return { look: 'nothing', says: 'nothing' };
  if (typeof value === 'string') return ofText(value);
  if (typeof value === 'boolean') return { look: 'plain', text: value ? 'yes' : 'no' };
  if (typeof value === 'number')
    return SIZE.test(name) && Number.isInteger(value) && value >= 1024
      ? { look: 'size', bytes: value }
      : { look: 'plain', text: String(value) };
  if (Array.isArray(value)) return ofList(value);
  return ofObject(value as Record<string, unknown>);
}

function ofText(text: string): Look {
  if (text === '') return { look: 'nothing', says: 'an empty text' };
  if (/^https?:\/\/\S+$/.test(text) && URL.canParse(text)) return { look: 'link', url: text };
  if (MOMENT.test(text)) return { look: 'moment', at: text, day: false };
  if (DAY.test(text) && !Number.isNaN(Date.parse(text))) return { look: 'moment', at: text, day: true };
  if (/^data:image\/(?:png|jpeg|gif|webp);base64,/.test(text)) return { look: 'picture', source: text };
  if (/^data:audio\//.test(text)) return { look: 'sound', source: text };
  return text.length > LONG ? { look: 'long', text } : { look: 'plain', text };
}

function ofList(list: unknown[]): Look {
  if (list.length === 0) return { look: 'nothing', says: 'an empty list' };
  if (list.every((one) => typeof one === 'number' || (typeof one === 'string' && one !== '' && one.length <= WORD)))
    return { look: 'line', words: list.map(String) };
  if (!list.every(isObject)) return { look: 'tree' };
  const columns = [...new Set(list.slice(0, 200).flatMap((row) => Object.keys(row)))];
  const flat = list.slice(0, 50).every((row) => Object.values(row).every((cell) => !isDeep(cell)));
  return flat && columns.length > 0 && columns.length <= MOST_COLUMNS
    ? { look: 'table', columns, rows: list }
    : { look: 'tree' };
}

/** What would not fit into a cell. */
const isDeep = (value: unknown): boolean =>
  typeof value === 'object' && value !== null && JSON.stringify(value).length > 200;

function ofObject(value: Record<string, unknown>): Look {
  if (Object.keys(value).length === 0) return { look: 'nothing', says: 'nothing' };
  if (value.cut === true && typeof value.characters === 'number')
    return { look: 'cut', characters: value.characters, beginning: String(value.beginning ?? '') };
  // A block of content as the Model Context Protocol has it.
  if (typeof value.data === 'string' && typeof value.mimeType === 'string') {
    const source = `data:${value.mimeType};base64,${value.data}`;
    if (value.type === 'image' && /^image\/(?:png|jpeg|gif|webp)$/.test(value.mimeType))
      return { look: 'picture', source };
    if (value.type === 'audio' && value.mimeType.startsWith('audio/')) return { look: 'sound', source };
  }
  return { look: 'tree' };
}
