import type { CatalogueEntry } from '../catalogue/entry.js';
import { catalogue, type ErrorRecord } from './errors.js';

/** The reader of an error: the caller of a tool, or its builder. */
export type Audience = 'caller' | 'builder';

const NOT_YOURS = 'The builder must fix this; changing the input does not help.';

/**
 * Returns an error as sentences: what failed and how to fix it. Callers do not receive hints for builders.
 * @param error code, message and hint
 * @param audience `caller`: without hints for builders; `builder`: with them
 * @returns one or two sentences
 */
export function failureText(
  { code, message, hint }: Pick<ErrorRecord, 'code' | 'message' | 'hint'>,
  audience: Audience = 'caller',
): string {
  const said = /[.!?]$/.test(message) ? message : `${message}.`;
  const advice = audience === 'builder' ? hint : adviceFor(code, hint);
  return advice ? `${said} ${advice}` : said;
}

function adviceFor(code: ErrorRecord['code'], hint: string): string {
  const { caller } = catalogue[code] as CatalogueEntry;
  return caller === true ? hint : (caller ?? NOT_YOURS);
}
