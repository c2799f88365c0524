import { attribute } from '../trace/spans/attributes.js';
import type { Span } from '../trace/spans/span.js';
import { Facts, type Need, needKey } from './facts.js';
import { type Finding, SEVERITIES } from './finding.js';
import { IndexedTrace, type Trace } from './indexed.js';
import type { DiagnosisRule, Draft } from './rule.js';
import { CONSEQUENCES, DIAGNOSIS_RULES } from './rules/registry.js';

/** Version of the findings; those of earlier versions are evaluated again. */
export const DIAGNOSIS_VERSION = 6;
/** Maximum number of findings of one run. */
const MOST = 50;

interface Found {
  rule: Pick<DiagnosisRule, 'code'>;
  draft: Draft;
}

/**
 * Facts that the rules need in addition to the trace, without duplicates.
 * @param trace spans and journal of a run
 * @param rules to ask; all by default
 * @returns needs in the order of the rules
 */
export function needsOf(trace: Trace, rules: readonly DiagnosisRule[] = DIAGNOSIS_RULES): Need[] {
  const index = new IndexedTrace(trace);
  const needs = new Map<string, Need>();
  for (const rule of rules) {
    try {
      for (const need of rule.needs?.(index) ?? []) needs.set(needKey(need), need);
    } catch {
      // Reported when the rule is evaluated.
    }
  }
  return [...needs.values()];
}

/**
 * Returns the findings of a run. Pure: the same trace and facts have the same findings. Failures come first, then
 * doubts, then warnings; follow-up failures are listed under their cause.
 * @param trace spans and journal of a run
 * @param facts answers to what {@link needsOf} asks for
 * @param rules to apply; all by default
 * @returns findings, the most severe first
 */
export function diagnose(
  trace: Trace,
  facts: Facts = new Facts(),
  rules: readonly DiagnosisRule[] = DIAGNOSIS_RULES,
): Finding[] {
  const index = new IndexedTrace(trace);
  const found: Found[] = [];
  for (const rule of rules) {
    try {
      const drafts = rule.look(index, facts);
      for (const draft of drafts) index.explain([draft.span, ...(draft.explains ?? [])]);
      found.push(...drafts.map((draft) => ({ rule, draft })));
    } catch {
      found.push(broken(rule, trace));
    }
  }
  const findings = found.map(({ rule, draft }) => asFinding(rule.code, draft, index));
  return counted(folded(ledTo(found, findings), index))
    .sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity))
    .slice(0, MOST);
}

/** A rule that throws takes no other one with it. */
const broken = (rule: DiagnosisRule, { spans, runs }: Trace): Found => ({
  rule: { code: 'not_looked_at' },
  draft: {
    span: spans[0]?.spanId ?? '',
    title: `Diagnosis rule "${rule.code}" failed on this run`,
    why: 'The trace contains something that the rule does not handle. All other rules were evaluated.',
    fix: 'Report it to the operator of this service. The trace is complete.',
    place: null,
    about: [rule.code, runs[0]?.flow],
    severity: 'warning',
  },
});

function asFinding(code: string, draft: Draft, trace: IndexedTrace): Finding {
  const { span: id, title, why, fix, place, quotes = [], cure = null, about, severity } = draft;
  const span = trace.span(id);
  const run = span?.run ?? trace.runs[0]?.id ?? '';
  const flow = span ? trace.runOf(span).flow : (trace.runs[0]?.flow ?? '');
  const isFatal = span !== undefined && madeItFail(span, trace);
  const mended = span ? doneAtLast(span, trace) : null;
  return {
    ...{ code, span: id, run, why, place, cure, times: 1, follows: [] },
    severity: mended ? 'warning' : (severity ?? (isFatal ? 'failure' : 'warning')),
    title: mended ? `${mended}: ${title}` : title,
    fix: mended ? 'No fix needed unless it happens often.' : fix,
    // What the title tells already is not said twice.
    quotes: quotes.filter((words) => words !== '' && !title.includes(words)).map((words) => words.slice(0, 300)),
    fingerprint: fingerprint([code, flow, ...about]),
  };
}

/** Whether all above it failed for it. An agent that failed for something else had dealt with it. */
function madeItFail({ spanId, error }: Span, trace: IndexedTrace): boolean {
  const chain = trace.chain(trace.span(spanId)!);
  const isOther = (above: Span) => above.work === 'agent' && above.error && above.error.message !== error?.message;
  return chain.every((above) => above.status === 'error' && (above.spanId === spanId || !isOther(above)));
}

/** A step that succeeded at a later attempt. */
function doneAtLast(span: Span, trace: IndexedTrace): string | null {
  const step = trace.stepOf(span);
  if (step?.status !== 'error') return null;
  const later = trace
    .attemptsOf(step)
    .find((other) => other.status === 'ok' && other.start >= step.start && other.spanId !== step.spanId);
  if (!later) return null;
  return `Step "${step.name}" succeeded at attempt ${Number(later.attributes[attribute.attempt] ?? 2)} after it had failed`;
}

/** A failure that a rule attributes to another one is listed under it. */
function ledTo(found: readonly Found[], findings: readonly Finding[]): Finding[] {
  const left = [...findings];
  found.forEach(({ draft: { because } }, index) => {
    const one = findings[index]!;
    const cause = because === undefined ? undefined : left.find((other) => other.span === because && other !== one);
    if (!cause) return;
    left.splice(left.indexOf(one), 1);
    left[left.indexOf(cause)] = under(one, cause);
  });
  return left;
}

const under = ({ code, title, span, severity }: Finding, cause: Finding): Finding => ({
  ...{ ...cause, severity },
  follows: [...cause.follows, { code, title, span }],
});

/** Follow-up failures are listed under their cause: under a limit that an agent reached, the call that kept failing. */
function folded(findings: readonly Finding[], trace: IndexedTrace): Finding[] {
  const left = [...findings];
  const times = new Map<string, number>();
  for (const { fingerprint: print } of findings) times.set(print, (times.get(print) ?? 0) + 1);
  const timesOf = ({ fingerprint: print }: Finding) => times.get(print) ?? 0;
  for (const one of findings) {
    if (!CONSEQUENCES.includes(one.code)) continue;
    const span = trace.span(one.span);
    const agent = span && (trace.agentOf(span) ?? span);
    if (!agent) continue;
    const calls = [...trace.below(agent)].filter(({ work }) => work === 'tool').sort((a, b) => a.start - b.start);
    const failed = new Set(calls.filter(({ error }) => error).map(({ spanId }) => spanId));
    const last = calls.at(-1)?.spanId;
    // A failure that was corrected later is not a cause, unless it repeats or comes last.
    const led = left.filter((other) => failed.has(other.span) && (timesOf(other) > 1 || other.span === last));
    const cause = led
      .filter(({ code }) => !CONSEQUENCES.includes(code))
      .reduce<Finding | undefined>(
        (most, other) => (most && timesOf(most) >= timesOf(other) ? most : other),
        undefined,
      );
    if (!cause) continue;
    left.splice(left.indexOf(one), 1);
    left[left.indexOf(cause)] = under(one, cause);
  }
  return left;
}

/** Equal findings are merged into the most severe one, with a count. */
function counted(findings: readonly Finding[]): Finding[] {
  const by = new Map<string, Finding>();
  for (const one of findings) {
    const key = `${one.run} ${one.fingerprint}`;
    const before = by.get(key);
    if (!before) by.set(key, one);
    else {
      const graver = SEVERITIES.indexOf(one.severity) < SEVERITIES.indexOf(before.severity) ? one : before;
      by.set(key, { ...graver, times: before.times + 1, follows: [...before.follows, ...one.follows] });
    }
  }
  return [...by.values()];
}

/** A short name of a trouble, the same wherever it happens (FNV-1a, 64 bits). */
function fingerprint(parts: readonly (string | null | undefined)[]): string {
  let hash = 0xcbf29ce484222325n;
  for (const byte of new TextEncoder().encode(JSON.stringify(parts.map((part) => part ?? ''))))
    hash = BigInt.asUintN(64, (hash ^ BigInt(byte)) * 0x100000001b3n);
  return hash.toString(16).padStart(16, '0');
}
