import { type FlagRule, quoteOf, textsOf } from '../flag.js';

const WORD = /[\p{L}\p{M}]{2,}/gu;
const LATIN = /\p{Script=Latin}/u;
const OTHERS = /[\p{Script=Cyrillic}\p{Script=Greek}\p{Script=Armenian}\p{Script=Cherokee}]/u;
/** Mathematical and full-width letters. */
const STYLED = /[\u{1d400}-\u{1d7ff}\uff21-\uff3a\uff41-\uff5a]{2,}/u;

/** A word that mixes letters of one script with look-alikes of another. */
function mixedIn(text: string): { 0: string; index: number } | null {
  for (const match of text.matchAll(WORD)) if (LATIN.test(match[0]) && OTHERS.test(match[0])) return match;
  return STYLED.exec(text);
}

export const lookAlike: FlagRule = {
  rule: 'look-alike',
  about: 'Letters of another script that look like Latin letters.',
  holds: true,
  look: (tool) =>
    textsOf(tool).flatMap(({ at, text }) => {
      const found = mixedIn(text);
      return found
        ? [
            {
              at,
              says: `“${found[0].slice(0, 40)}” mixes letters of different scripts that look alike`,
              quote: quoteOf(text, found.index, found[0].length),
            },
          ]
        : [];
    }),
};
