import { type FlagRule, quoteOf, textsOf } from '../flag.js';

/** Where a word or a value belongs, and no sentences: names, titles, defaults, choices, examples. */
const VALUE = /^(?:name|title|annotations\/title)$|\/(?:title|default|enum|examples?|const|pattern|name|\$comment)$/;
/** More words than a title or value has. */
const MOST_WORDS = 12;
const LONGEST = 140;
const FEW_WORDS = 5;
/** Signs of a sentence to somebody, in any writing. */
const SENTENCE = /[.!?。！？।؟]\s+\S|[.!。！।]$|\n/u;

export const misplaced: FlagRule = {
  rule: 'misplaced',
  about: 'Sentences where only a title or a value is expected: in titles, defaults, enums and examples.',
  holds: true,
  look: (tool) =>
    textsOf(tool).flatMap(({ at, text }) => {
      if (!VALUE.test(at)) return [];
      const words = text.split(/[\s_]+/).filter(Boolean).length;
      // Writings without blanks count by their characters; what is long without words is an address, or the pattern of a date.
      const isLong =
        words > MOST_WORDS ||
        (text.length > LONGEST && words > FEW_WORDS) ||
        (/[\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af]/.test(text) && text.length > 24);
      const isSentence = SENTENCE.test(text.trim()) && words > FEW_WORDS;
      if (!isLong && !isSentence) return [];
      return [{ at, says: 'Sentences appear where only a title or a value is expected', quote: quoteOf(text, 0, 100) }];
    }),
};
