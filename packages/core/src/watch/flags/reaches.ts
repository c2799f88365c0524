import { reachIn } from '../../tools/reaches.js';
import { type FlagRule, quoteOf, textsOf } from '../flag.js';

export const reaches: FlagRule = {
  rule: 'reaches',
  about: 'Text about files with secrets, the environment, the system prompt, the conversation or memory.',
  holds: true,
  look: (tool) =>
    textsOf(tool).flatMap(({ at, text }) => {
      const found = reachIn(text);
      return found
        ? [{ at, says: `The text mentions ${found.what}`, quote: quoteOf(text, found.at, found.length) }]
        : [];
    }),
};
