import { type FlagRule, quoteOf, textsOf } from '../flag.js';

/** Words in which letters of one script stand beside look-alikes of another. */
const MIXED = [
  /(?=[\p{L}\p{M}]*\p{Script=Latin})(?=[\p{L}\p{M}]*[\p{Script=Cyrillic}\p{Script=Greek}\p{Script=Armenian}\p{Script=Cherokee}])[\p{L}\p{M}]{2,}/u,
  // Letters that stand in mathematics, or are wide.
  /[\u{1d400}-\u{1d7ff}\uff21-\uff3a\uff41-\uff5a]{2,}/u,
];

export const lookAlike: FlagRule = {
  rule: 'look-alike',
  about: 'Letters of another script that look like the usual ones.',
  holds: true,
  look: (tool) =>
    textsOf(tool).flatMap(({ at, text }) => {
      const found = MIXED.map((mixed) => mixed.exec(text)).find(Boolean);
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
