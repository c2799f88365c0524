import { isObject, type Json } from '../../json.js';
import { nearest } from '../../suggest.js';
import type { Span } from '../../trace/span.js';
import type { IndexedTrace } from '../indexed.js';
import { detail, failureRule, placeInFlow } from '../rule.js';

/** Why the step that an expression reads gave nothing. */
function whyNot(
  expression: string,
  steps: readonly Span[],
  input: Json | undefined,
): { why: string; instead?: string; because?: string } | null {
  const [, name] = /\bsteps\.([A-Za-z_]\w*)/.exec(expression) ?? [];
  if (name) {
    const step = steps.find((one) => one.name === name);
    if (!step || step.status === 'skipped')
      return { why: `Step "${name}" was not done in this run: its branch was not taken.` };
    const output = step.output;
    if (isObject(output) && Array.isArray(output.rows) && output.rows.length === 0 && /rows\s*\[/.test(expression))
      return { why: `Step "${name}" found no row, so that there is no first one.`, because: step.spanId };
    const path = expression.slice(expression.indexOf(name) + name.length).match(/\.[A-Za-z_]\w*|\[\d+\]/g) ?? [];
    return misspelt(output, path, `steps.${name}`);
  }
  const path = /\binput((?:\.[A-Za-z_]\w*|\[\d+\])+)/.exec(expression)?.[1]?.match(/\.[A-Za-z_]\w*|\[\d+\]/g) ?? [];
  return path.length > 0 ? misspelt(input, path, 'input') : null;
}

function misspelt(
  value: Json | undefined,
  path: readonly string[],
  from: string,
): { why: string; instead?: string } | null {
  let here = value;
  let said = from;
  for (const part of path) {
    const key = part.startsWith('[') ? Number(part.slice(1, -1)) : part.slice(1);
    if (Array.isArray(here)) {
      if (typeof key !== 'number' || key >= here.length) return { why: `${said} has ${here.length} items.` };
      here = here[key];
    } else if (isObject(here)) {
      if (!Object.hasOwn(here, String(key))) {
        const names = Object.keys(here);
        const near = nearest(String(key), names);
        const has = names.length > 0 ? `${said} has ${names.slice(0, 10).join(', ')}` : `${said} is empty`;
        return near ? { why: `${has}.`, instead: near } : { why: `${has}, and no "${key}".` };
      }
      here = here[String(key)];
    } else
      return {
        why: `${said} is ${here === null || here === undefined ? 'nothing' : `a ${typeof here}`}, in which there is no "${key}".`,
      };
    said += part;
  }
  return null;
}

const inputOf = (trace: IndexedTrace, run: string) =>
  trace.spans.find((span) => span.work === 'run' && span.run === run)?.input;

export const noValue = failureRule({
  code: 'no_value',
  about:
    'An expression asked for a value that was not there: a branch not taken, a search without rows, a misspelt field.',
  todo: 'Correct the field, or say what is taken instead (.?field.orValue("…")).',
  codes: ['no_value'],
  explain: (failure, trace) => {
    const expression = detail(failure, 'expression');
    const steps = trace.of('step').filter(({ run }) => run === failure.span.run);
    const because = whyNot(expression, steps, inputOf(trace, failure.span.run));
    const place = placeInFlow(failure, trace);
    const missing = /([A-Za-z_]\w*)\s*$/.exec(expression)?.[1];
    const { instead } = because ?? {};
    const fixed = instead && missing ? expression.replace(new RegExp(`\\b${missing}\\s*$`), instead) : null;
    const written = 'flow' in place ? valueAt(failure.run.document, place.at) : undefined;
    const from = typeof written === 'string' && fixed && written.includes(expression) ? written : null;
    return {
      title: instead
        ? `"${expression}" has no value; "${instead}" was probably meant`
        : because
          ? `"${expression}" has no value. ${because.why}`
          : failure.error.message,
      why: instead
        ? because!.why
        : `"${expression}" was filled in while the run went on, and what it names was not in the data.`,
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
