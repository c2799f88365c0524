import { isObject } from '../json.js';
import { attribute } from '../trace/attributes.js';
import type { Span } from '../trace/span.js';
import type { Failure, Finding, Trace } from './finding.js';
import { interruptions } from './interrupted.js';
import { DIAGNOSIS_RULES } from './rules/registry.js';

/**
 * Says what went wrong in a run and what to do about it. Pure: the same trace gives the same findings.
 * What made the run fail stands first; what failed on the way but was dealt with is a warning.
 */
export function diagnose(trace: Trace): Finding[] {
  const spans = new Map(trace.spans.map((span) => [span.spanId, span]));
  const flowOf = new Map(trace.runs.map((run) => [run.id, run.flow]));
  const failed = trace.spans.filter((span) => span.error && !hasFailedChild(span, trace.spans));
  // What was cancelled beside a failure, or below it, is no cause of anything.
  const own = failed.filter((span) => span.error!.code !== 'cancelled');
  const causes = own.length > 0 ? own : failed;
  const findings = causes.map((span) => {
    const failure: Failure = {
      span,
      error: span.error!,
      flow: flowOf.get(span.run) ?? '',
      chain: chainOf(span, spans),
    };
    const rule = DIAGNOSIS_RULES.find((candidate) => candidate.matches(failure))!;
    const fatal = failure.chain.every((above) => above.status === 'error');
    const said = rule.explain(failure);
    return {
      code: rule.code,
      severity: fatal ? ('failure' as const) : ('warning' as const),
      span: span.spanId,
      run: span.run,
      ...said,
      ...doneAtLast(failure, trace.spans, said.title),
    };
  });
  const all = [...findings, ...unreachableInToolbox(trace.spans, findings), ...interruptions(trace)];
  return all.sort((a, b) => Number(a.severity === 'warning') - Number(b.severity === 'warning'));
}

/** A failure is shown where it began: a child that failed with the same message explains its parents. */
function hasFailedChild(span: Span, spans: readonly Span[]): boolean {
  return spans.some(
    (child) =>
      child.parentId === span.spanId &&
      child.error &&
      (child.error.message === span.error!.message ||
        (child.error.code === 'cancelled' && span.error!.code === 'cancelled')),
  );
}

/** A step that was tried again and went well then is told as that. */
function doneAtLast({ chain }: Failure, spans: readonly Span[], title: string): Partial<Finding> {
  const step = chain.find((span) => span.work === 'step');
  if (!step) return {};
  const path = step.attributes[attribute.path];
  const later = spans.find(
    (span) =>
      span.work === 'step' &&
      span.run === step.run &&
      span.status === 'ok' &&
      span.start >= step.start &&
      span.spanId !== step.spanId &&
      span.attributes[attribute.path] === path,
  );
  if (!later) return {};
  const attempt = Number(later.attributes[attribute.attempt] ?? 2);
  return {
    title: `Step "${step.name}" was done at attempt ${attempt}, after it had failed: ${title}`,
    fix: 'Nothing has to be done, unless it happens often.',
  };
}

function chainOf(span: Span, spans: Map<string, Span>): Span[] {
  const chain: Span[] = [];
  for (
    let here: Span | undefined = span;
    here && !chain.includes(here);
    here = here.parentId ? spans.get(here.parentId) : undefined
  )
    chain.push(here);
  return chain;
}

/** An agent goes on without a server it cannot reach; whoever reads the run should still know. */
function unreachableInToolbox(spans: readonly Span[], known: readonly Finding[]): Finding[] {
  return spans.flatMap((span) => {
    const list = span.attributes[attribute.unreachable];
    if (!Array.isArray(list)) return [];
    return list.filter(isObject).flatMap((entry): Finding[] => {
      const server = String(entry.server);
      if (known.some((finding) => finding.place && 'server' in finding.place && finding.place.server === server))
        return [];
      return [
        {
          code: 'server_unreachable',
          severity: 'warning',
          span: span.spanId,
          run: span.run,
          title: `Tool server "${server}" could not be reached`,
          why: `${entry.message}. The agent went on with the tools it had last seen there.`,
          fix: String(entry.hint),
          place: { server },
        },
      ];
    });
  });
}
