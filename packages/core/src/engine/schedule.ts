import type { Link } from '../flow/graph.js';
import type { PreparedFlow } from './prepared.js';

/** How a step came out, as far as those after it are concerned. */
export interface Settlement {
  state: 'done' | 'failed' | 'skipped';
  branch: string | null;
}

type Verdict = 'run' | 'skip' | 'wait';

/** Whether one link is fulfilled, speaks against the step, or says nothing either way. */
function judge(link: Link, settlement: Settlement, asides: Set<string>): 'yes' | 'no' | 'neutral' {
  if (settlement.state === 'skipped') return link.branch === null ? 'neutral' : 'no';
  if (link.branch !== null) return settlement.branch === link.branch ? 'yes' : 'no';
  return settlement.branch !== null && asides.has(settlement.branch) ? 'no' : 'yes';
}

/**
 * Says whether a step can begin. Branches of one step are alternatives; different steps are all required; a skipped
 * plain predecessor is neutral; when nothing speaks for the step it is skipped. With `join: any` the first fulfilled
 * link is enough.
 */
export function verdict(flow: PreparedFlow, name: string, settled: ReadonlyMap<string, Settlement>): Verdict {
  const links = flow.graph.before.get(name) ?? [];
  if (links.length === 0) return 'run';
  const byStep = groupByStep(links);
  const verdicts = [...byStep].map(([from, alternatives]) => {
    const settlement = settled.get(from);
    if (!settlement) return 'open' as const;
    const judged = alternatives.map((link) => judge(link, settlement, flow.steps.get(from)!.asides));
    return judged.includes('yes')
      ? ('yes' as const)
      : judged.includes('neutral')
        ? ('neutral' as const)
        : ('no' as const);
  });
  if (flow.steps.get(name)!.document.join === 'any') {
    if (verdicts.includes('yes')) return 'run';
    return verdicts.includes('open') ? 'wait' : 'skip';
  }
  if (verdicts.includes('no')) return verdicts.includes('open') ? 'wait' : 'skip';
  if (verdicts.includes('open')) return 'wait';
  return verdicts.includes('yes') ? 'run' : 'skip';
}

function groupByStep(links: readonly Link[]): Map<string, Link[]> {
  const groups = new Map<string, Link[]>();
  for (const link of links) groups.set(link.from, [...(groups.get(link.from) ?? []), link]);
  return groups;
}
