import { withoutEnd } from './text-ends.js';

/** So long a name may be, in characters. */
const LONGEST = 64;

/**
 * Converts words to a name: lower-case letters and digits with single hyphens, starting with a letter. Accents are
 * removed.
 * @param words any text
 * @returns a name, or an empty text if no letter is left
 */
export function nameFrom(words: string): string {
  return withoutEnd(
    words
      .normalize('NFKD')
      .replaceAll(/\p{M}/gu, '')
      // Upper case first, which writes out letters such as ß.
      .toUpperCase()
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, '-')
      .replace(/^[^a-z]+/, '')
      .slice(0, LONGEST),
    '-',
  );
}
