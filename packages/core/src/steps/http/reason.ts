import { fieldErrorsIn } from '../../json/field-errors.js';
import { isObject, type Json } from '../../json/json.js';

const LONGEST = 400;
/** Of credentials and limits: nothing that a caller could correct. */
const NOT_THEIRS = [401, 403, 407, 429];

/** Returns why a service refused a request, as `: reason`, where the caller can correct it; else an empty text. */
export function reasonOf(status: number, body: string): string {
  if (status < 400 || status >= 500 || NOT_THEIRS.includes(status) || /^\s*</.test(body)) return '';
  const text = inWords(body).replaceAll(/\s+/g, ' ').trim();
  if (text === '') return '';
  return `: ${text.length > LONGEST ? `${text.slice(0, LONGEST)} …` : text}`;
}

function inWords(text: string): string {
  let body: Json;
  try {
    body = JSON.parse(text) as Json;
  } catch {
    return text;
  }
  if (!isObject(body)) return typeof body === 'string' ? body : text;
  const inner = isObject(body.error) ? body.error : {};
  const fields = fieldErrorsIn(body).map(({ field, says }) => `${field}: ${says}`);
  const said = [body.detail, body.message, inner.message, body.error_description, body.error, body.title, body.reason];
  const first = said.find((one) => typeof one === 'string' && one !== '') as string | undefined;
  return [...(first === undefined ? [] : [first]), ...fields].join('. ') || text;
}
