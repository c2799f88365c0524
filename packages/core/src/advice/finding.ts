import { z } from 'zod';
import type { ErrorRecord } from '../errors.js';
import type { Span } from '../trace/span.js';
import type { RunState } from '../trace/states.js';

/** What a diagnosis says about one run. */
export const findingSchema = z.object({
  code: z.string().describe('Name of the rule'),
  severity: z.enum(['failure', 'warning']),
  span: z.string().describe('The span that shows it'),
  run: z.string(),
  title: z.string().describe('What went wrong, in one sentence'),
  why: z.string().describe('Why it happened, in plain words'),
  fix: z.string().describe('What to change'),
  place: z
    .union([
      z.object({ flow: z.string(), at: z.string() }),
      z.object({ server: z.string() }),
      z.object({ model: z.string() }),
    ])
    .nullable()
    .describe('Where to change it: a JSON Pointer into the flow, or a thing by its name'),
});
export type Finding = z.infer<typeof findingSchema>;

/** A run with all runs it started, as one tree of spans. */
export interface Trace {
  runs: { id: string; flow: string; parentRun: string | null; state: RunState; error: ErrorRecord | null }[];
  spans: Span[];
}

/** A span that failed, with its neighbourhood. */
export interface Failure {
  span: Span;
  error: ErrorRecord;
  /** The flow whose run the span belongs to. */
  flow: string;
  /** From the span itself up to the root. */
  chain: Span[];
}

/** One rule of the diagnosis. A rule is one file in `rules/` and one line in the registry. */
export interface DiagnosisRule {
  readonly code: string;
  /** What the rule looks for, for the reference. */
  readonly about: string;
  matches(failure: Failure): boolean;
  explain(failure: Failure): Pick<Finding, 'title' | 'why' | 'fix' | 'place'>;
}

/** A fact that the error carries, as text. */
export function detail(failure: Failure, name: string): string {
  const value = failure.error.details?.[name];
  return value === undefined || value === null ? '' : typeof value === 'string' ? value : JSON.stringify(value);
}

/** The step under which a span stands, and where it is in the flow. */
export function stepOf(failure: Failure): { name: string; at: string } | null {
  const step = failure.chain.find((span) => span.work === 'step' && span.run === failure.span.run);
  return step ? { name: step.name, at: `/steps/${step.name}` } : null;
}

export function placeInFlow(failure: Failure, inside = ''): Finding['place'] {
  const step = stepOf(failure);
  if (failure.error.at?.startsWith('/steps/')) return { flow: failure.flow, at: failure.error.at };
  return { flow: failure.flow, at: step ? step.at + inside : '' };
}
