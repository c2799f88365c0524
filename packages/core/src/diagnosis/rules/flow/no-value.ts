import { isObject, type Json, type JsonObject } from '../../../json/json.js';
import { nearest } from '../../../text/suggest.js';
import type { Span } from '../../../trace/spans/span.js';
import type { IndexedTrace } from '../../indexed.js';
import { detail, failureRule, placeInFlow } from '../../rule.js';

/** Why something that an expression reads is not there. */
interface Why {
  why: string;
  /** The field that there is not, and the one that was probably meant. */
  wrong?: string;
  instead?: string;
  /** The span that led to it. */
  because?: string;
}

/** What an expression reads of steps and of the input: each path from its root. */
const READS = /\b(?:steps\.([A-Za-z_]\w*)|input)((?:\.[A-Za-z_]\w*|\[\d+\])*)/g;

function whyNot(expression: string, steps: readonly Span[], input: Json | undefined): Why | null {
  for (const [, name, path = ''] of expression.matchAll(READS)) {
    const parts = path.match(/\.[A-Za-z_]\w*|\[\d+\]/g) ?? [];
    const why = name ? whyNotOf(name, parts, steps) : missingIn(input, parts, 'input');
    if (why) return why;
  }
  return null;
}

function whyNotOf(name: string, path: readonly string[], steps: readonly Span[]): Why | null {
  const step = steps.find((one) => one.name === name);
  if (!step || step.status === 'skipped') return { why: `Step "${name}" did not run: its branch was not taken.` };
  const { output } = step;
  if (isObject(output) && Array.isArray(output.rows) && output.rows.length === 0 && /^\.rows\[/.test(path.join('')))
    return { why: `Step "${name}" found no row, so there is no first one.`, because: step.spanId };
  return missingIn(output, path, `steps.${name}`);
}

function missingIn(value: Json | undefined, path: readonly string[], from: string): Why | null {
  let here = value;
  let said = from;
  for (const part of path) {
    const key = part.startsWith('[') ? Number(part.slice(1, -1)) : part.slice(1);
    if (Array.isArray(here)) {
      if (typeof key !== 'number' || key >= here.length) return { why: `${said} has ${here.length} items.` };
      here = here[key];
    } else if (isObject(here)) {
      if (!Object.hasOwn(here, String(key))) return absent(here, String(key), said);
      here = here[String(key)];
    } else
      return {
        why: `${said} is ${here === null || here === undefined ? 'nothing' : `a ${typeof here}`} and has no "${key}".`,
      };
    said += part;
  }
  return null;
}

function absent(holder: JsonObject, wrong: string, said: string): Why {
  const names = Object.keys(holder);
  const has = names.length > 0 ? `${said} has ${names.slice(0, 10).join(', ')}` : `${said} is empty`;
  const instead = nearest(wrong, names);
  return instead ? { why: `${has}.`, wrong, instead } : { why: `${has}, and no "${wrong}".` };
}

const inputOf = (trace: IndexedTrace, run: string) =>
  trace.spans.find((span) => span.work === 'run' && span.run === run)?.input;

export const noValue = failureRule({
  code: 'no_value',
  about: 'An expression refers to a missing value: a branch not taken, a search without rows, a misspelled field.',
  todo: 'Correct the field, or add a default (.?field.orValue("…")).',
  codes: ['no_value'],
  explain: (failure, trace) => {
    const expression = detail(failure, 'expression');
    const steps = trace.of('step').filter(({ run }) => run === failure.span.run);
    const because = whyNot(expression, steps, inputOf(trace, failure.span.run));
    const place = placeInFlow(failure, trace);
    const { wrong, instead } = because ?? {};
    // Only as a whole name: a longer one begins like it.
    const fixed = instead ? expression.replace(new RegExp(`\\.${wrong}\\b`), `.${instead}`) : null;
    const written = 'flow' in place ? valueAt(failure.run.document, place.at) : undefined;
    const from = typeof written === 'string' && fixed && written.includes(expression) ? written : null;
    return {
      title: instead
        ? `"${expression}" has no value; did you mean "${instead}"?`
        : because
          ? `"${expression}" has no value. ${because.why}`
          : failure.error.message,
      why: instead ? because!.why : `"${expression}" was evaluated during the run, and the data has no such value.`,
      fix: instead ? `Write "${fixed}".` : failure.error.hint,
      place,
      about: [expression],
      because: because?.because,
      ...(from !== null &&
        'flow' in place && {
          cure: { do: 'change', flow: place.flow, at: place.at, from, to: from.replace(expression, fixed!) } as const,
        }),
    };
  },
});

function valueAt(document: Json | undefined, pointer: string): Json | undefined {
  let here = document;
  for (const part of pointer.split('/').slice(1)) {
    const key = part.replaceAll('~1', '/').replaceAll('~0', '~');
    here = Array.isArray(here) ? here[Number(key)] : isObject(here) ? here[key] : undefined;
  }
  return here;
}
