import { asPindroError, PindroError } from '../../errors/errors.js';
import { Template } from '../../expression/template.js';
import { type BuiltIn, gives } from './built-in.js';

const LONGEST = 500;

/** Works out a sum, over the same expressions as flows have. */
export const calculate: BuiltIn = {
  name: 'calculate',
  description:
    'Evaluates an expression exactly: numbers with + - * / and brackets, comparisons, lists with sum, avg, min and max, as in [3.5, 4].sum() * 2. Use it for all arithmetic.',
  schema: {
    type: 'object',
    required: ['expression'],
    properties: { expression: { type: 'string', maxLength: LONGEST, description: 'For example (120 + 80) * 1.2' } },
  },
  reads: true,
  call: async ({ expression }) => {
    const text = String(expression).trim();
    try {
      if (text === '' || text.includes('}'))
        throw new PindroError('expression_failed', { expression: text, why: 'the expression is not arithmetic' });
      return gives({ result: new Template(`\${ ${text} }`).require({}) });
    } catch (error) {
      const why = `"${text}" cannot be evaluated: ${asPindroError(error).message}`;
      throw new PindroError(
        'arguments_refused',
        { tool: 'calculate', why, fix: 'Use only numbers and operators, as in (120 + 80) * 1.2.' },
        { cause: error },
      );
    }
  },
};
