import type { Ask, AskedAnswer } from '../asking.js';
import type { Turn } from '../dialect.js';

/** An answer is continued so often. */
const MOST = 10;

/** Asks a model to continue an answer that it paused, and returns the whole of it. */
export const withPauses =
  (ask: Ask): Ask =>
  async (connection, turns, tools, options) => {
    let whole = await ask(connection, turns, tools, options);
    const paused: Turn[] = [];
    for (let count = 0; whole.end === 'paused' && count < MOST; count++) {
      const last = paused.length === 0 ? whole : answerOf(paused, whole);
      paused.push({
        role: 'assistant',
        text: last.text,
        calls: [],
        ...(last.reasoning && { reasoning: last.reasoning }),
      });
      whole = joined(whole, await ask(connection, [...turns, ...paused], tools, options));
    }
    return whole.end === 'paused' ? { ...whole, end: 'answer' } : whole;
  };

/** The part of an answer that came last. */
function answerOf(paused: readonly Turn[], whole: AskedAnswer): AskedAnswer {
  const before = paused.map(({ text }) => text).join('').length;
  const known = paused.flatMap((turn) => ('reasoning' in turn ? (turn.reasoning?.kept?.parts ?? []) : [])).length;
  const kept = whole.reasoning?.kept;
  return {
    ...whole,
    text: whole.text.slice(before),
    ...(whole.reasoning && {
      reasoning: { ...whole.reasoning, ...(kept && { kept: { ...kept, parts: kept.parts.slice(known) } }) },
    }),
  };
}

function joined(first: AskedAnswer, next: AskedAnswer): AskedAnswer {
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
