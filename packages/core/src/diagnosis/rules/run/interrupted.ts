import { isObject, type JsonObject } from '../../../json/json.js';
import type { DiagnosisRule } from '../../rule.js';

/** How to find out whether work of a kind happened, when nobody here can know. */
const LOOK: Record<string, string> = {
  mail: 'Check whether the mail arrived.',
  http: 'Check on the other side whether the request arrived.',
  tool: 'Check on the tool server whether the call took effect.',
  agent: 'Check the runs it started, and what its tools changed.',
};

/**
 * Runs that a stop of the service interrupted and that could not resume: the step with the unknown outcome, and why.
 */
export const interrupted: DiagnosisRule = {
  code: 'interrupted',
  about: 'The service stopped during a run that could not resume.',
  todo: 'Check whether the step with the unknown outcome happened. Run it again only if it did not.',
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
              ? 'Trial runs do not resume. Everything recorded until then is below.'
              : 'The process ended before the run. Everything recorded until then is below.',
            fix: details.trial ? 'Run it again.' : 'Check what the last step did, then run it again.',
            place: null,
          };
        return {
          ...base,
          title: `The service stopped during step "${step}" of ${flow}, and the outcome is unknown`,
          why: whyOf(details),
          fix: `${LOOK[String(details.kind)] ?? 'Check the effect of the step.'} Run it again only if it did not happen.`,
          place: { flow, at: `/steps/${step.split('/')[0]}` },
        };
      }),
};

function whyOf({ what, attempt, rounds, called, children }: JsonObject): string {
  const sentences = [
    `Interrupted: ${what || 'work that cannot be repeated'}${Number(attempt) > 1 ? ` (attempt ${attempt})` : ''}.`,
  ];
  if (rounds) {
    const tools = Array.isArray(called) && called.length > 0 ? `, which had called ${called.join(', ')}` : '';
    sentences.push(`The model had answered ${rounds === 1 ? 'once' : `${rounds} times`}${tools}.`);
  }
  const begun = (Array.isArray(children) ? children : []).filter(isObject);
  if (begun.length > 0)
    sentences.push(`Runs it had started: ${begun.map(({ flow, state }) => `${flow} (${state})`).join(', ')}.`);
  sentences.push('Everything before it is recorded and remains valid.');
  return sentences.join(' ');
}
