import type { Ask, AskedAnswer } from '../asking.js';
import type { Turn } from '../dialect.js';

/** The number of times one answer is continued. */
const MAX_CONTINUATIONS = 10;

/** Asks a model to continue an answer that it paused, and returns the parts joined. */
export const withPauses =
  (ask: Ask): Ask =>
  async (connection, turns, tools, options) => {
    const parts = [await ask(connection, turns, tools, options)];
    while (parts.at(-1)!.end === 'paused' && parts.length <= MAX_CONTINUATIONS)
      parts.push(await ask(connection, [...turns, ...parts.map(turnOf)], tools, options));
    const whole = parts.reduce(join);
    return whole.end === 'paused' ? { ...whole, end: 'answer' } : whole;
  };

const turnOf = ({ text, reasoning }: AskedAnswer): Turn => ({
  role: 'assistant',
  text,
  calls: [],
  ...(reasoning && { reasoning }),
});

function join(first: AskedAnswer, next: AskedAnswer): AskedAnswer {
  const [before, after] = [first.reasoning, next.reasoning];
  const parts = [...(before?.kept?.parts ?? []), ...(after?.kept?.parts ?? [])];
  const dialect = after?.kept?.dialect ?? before?.kept?.dialect;
  return {
    ...next,
    text: first.text + next.text,
    usage: {
      input: first.usage.input + next.usage.input,
      output: first.usage.output + next.usage.output,
      cached: first.usage.cached + next.usage.cached,
    },
    ...((before || after) && {
      reasoning: {
        text: [before?.text, after?.text].filter(Boolean).join('\n'),
        ...(dialect && { kept: { dialect, parts } }),
      },
    }),
  };
}
