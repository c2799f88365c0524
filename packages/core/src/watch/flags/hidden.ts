import { type FlagRule, quoteOf, textsOf } from '../flag.js';

/** Characters that nobody sees: of no width, that turn the direction of writing, tags, private and control characters. */
const HIDDEN =
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u00ad\u061c\u115f\u1160\u180e\u200b\u200e\u200f\u202a-\u202e\u2060-\u2064\u2066-\u206f\u3164\ufeff\uffa0\ufff9-\ufffb\p{Co}\u{e0000}-\u{e007f}]|\u034f|\u17b4|\u17b5|(?<!\p{Extended_Pictographic}\ufe0f?|\p{L})[\u200c\u200d]/u;

export const hidden: FlagRule = {
  rule: 'hidden',
  about: 'Characters that people do not see and a model reads.',
  holds: true,
  look: (tool) =>
    textsOf(tool).flatMap(({ at, text }) => {
      const found = HIDDEN.exec(text);
      return found
        ? [{ at, says: 'There are characters in it that nobody sees', quote: quoteOf(text, found.index, 1) }]
        : [];
    }),
};
