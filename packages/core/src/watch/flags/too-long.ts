import { allTexts, type FlagRule, MOST_TEXT, quoteOf } from '../flag.js';

export const tooLong: FlagRule = {
  rule: 'too-long',
  about: 'Text too long for anybody to review.',
  holds: true,
  look: (tool) => {
    const texts = allTexts(tool);
    const length = texts.reduce((sum, { text }) => sum + text.length, 0);
    const [longest] = texts.toSorted((a, b) => b.text.length - a.text.length);
    if (length <= MOST_TEXT || !longest) return [];
    const says = `The text has ${length} characters; only the first ${MOST_TEXT} are reviewed`;
    return [{ at: longest.at, says, quote: quoteOf(longest.text, 0, 1) }];
  },
};
