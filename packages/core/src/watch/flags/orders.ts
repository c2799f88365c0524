import { orderIn } from '../../tools/orders.js';
import { type FlagRule, quoteOf, textsOf } from '../flag.js';

export const orders: FlagRule = {
  rule: 'orders',
  about: 'Words that give the model orders beyond what the tool does.',
  holds: true,
  look: (tool) =>
    textsOf(tool).flatMap(({ at, text }) => {
      const found = orderIn(text);
      return found
        ? [{ at, says: 'These words give the model orders', quote: quoteOf(found.plain, found.at, found.length) }]
        : [];
    }),
};
