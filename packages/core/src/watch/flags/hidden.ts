import { hiddenIn } from '../../tools/hidden-text.js';
import { type FlagRule, quoteOf, textsOf } from '../flag.js';

export const hidden: FlagRule = {
  rule: 'hidden',
  about:
    'Text that people do not see but a model reads: invisible characters, white space, comments, links, encodings.',
  holds: true,
  look: (tool) =>
    textsOf(tool).flatMap(({ at, text }) =>
      hiddenIn(text)
        .slice(0, 1)
        .map((found) => {
          const quote = quoteOf(text, found.at, Math.min(found.length, 80));
          return { at, says: found.says, quote: found.decoded ? `${quote} ⟶ ${found.decoded.slice(0, 200)}` : quote };
        }),
    ),
};
