import type { ErrorRecord } from '../errors.js';
import type { RunState } from '../trace/journal.js';
import type { Span } from '../trace/span.js';

/** What a diagnosis says about one run. */
export interface Finding {
  /** Name of the rule. */
  code: string;
  severity: 'failure' | 'warning';
  /** The span that shows it. */
  span: string;
  run: string;
  /** What went wrong, in one sentence. */
  title: string;
  /** Why it happened, in plain words. */
  why: string;
  /** What to change. */
  fix: string;
  /** Where to change it: a JSON Pointer into the flow, or a thing by its name. */
  place: { flow: string; at: string } | { server: string } | { model: string } | null;
}

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
