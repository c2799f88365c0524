import { orderIn } from '../../tools/orders.js';
import { type FlagRule, quoteOf, textsOf } from '../flag.js';

export const orders: FlagRule = {
  rule: 'orders',
  about: 'Text that instructs the model beyond using the tool.',
  holds: true,
  look: (tool) =>
    textsOf(tool).flatMap(({ at, text }) => {
      const found = orderIn(text);
      return found
        ? [{ at, says: 'The text instructs the model', quote: quoteOf(found.plain, found.at, found.length) }]
        : [];
    }),
};
