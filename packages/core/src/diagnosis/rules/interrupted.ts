import { isObject, type JsonObject } from '../../json.js';
import type { DiagnosisRule } from '../rule.js';

/** How to find out whether work of a kind happened, when nobody here can know. */
const LOOK: Record<string, string> = {
  mail: 'Ask whether the mail has arrived.',
  http: 'Ask the other side whether the request has arrived there.',
  tool: 'Look at the tool server whether the call took effect.',
  agent: 'Look at the runs it began, and at what the tools it called have changed.',
};

/** Runs that a stop of the service cut and that could not go on by themselves: which step is in doubt, and why. */
export const interrupted: DiagnosisRule = {
  code: 'interrupted',
  about: 'The service stopped while a run was under way, and it could not go on by itself.',
  todo: 'Find out whether the step that is in doubt happened; run it again only if it did not.',
  look: (trace) =>
    trace.runs
      .filter((run) => run.state === 'interrupted')
      .map(({ id, flow, error }) => {
        const details = error?.details ?? {};
        const step = typeof details.step === 'string' ? details.step : null;
        const base = {
          span: trace.spans.find((span) => span.run === id)?.spanId ?? '',
          about: [step],
          severity: 'failure' as const,
        };
        if (step === null)
          return {
            ...base,
            title: `The service stopped while "${flow}" ran`,
            why: details.trial
              ? 'A try-out does not go on by itself. What was recorded until then is below.'
              : 'The process ended before the run did; what was recorded until then is below.',
            fix: details.trial ? 'Try it again.' : 'Look at what the last step did, then run it again.',
            place: null,
          };
        return {
          ...base,
          title: `The service stopped while step "${step}" of ${flow} was under way, and nobody knows whether it happened`,
          why: whyOf(details),
          fix: `${LOOK[String(details.kind)] ?? 'Look at what it reaches.'} Run it again only if it did not.`,
          place: { flow, at: `/steps/${step.split('/')[0]}` },
        };
      }),
};

function whyOf({ what, attempt, rounds, called, children }: JsonObject): string {
  const sentences = [
    `It had begun: ${what || 'work that cannot be repeated'}${Number(attempt) > 1 ? ` (attempt ${attempt})` : ''}.`,
  ];
  if (rounds) {
    const tools = Array.isArray(called) && called.length > 0 ? `, which had called ${called.join(', ')}` : '';
    sentences.push(`The model had answered ${rounds === 1 ? 'once' : `${rounds} times`}${tools}.`);
  }
  const begun = (Array.isArray(children) ? children : []).filter(isObject);
  if (begun.length > 0)
    sentences.push(`It had begun ${begun.map(({ flow, state }) => `${flow} (${state})`).join(', ')}.`);
  sentences.push('All that came before it is recorded and holds.');
  return sentences.join(' ');
}
