import type { Link } from '../flow/graph.js';
import type { PreparedGraph, PreparedStep } from './prepared.js';

/** How a step came out, as far as those after it are concerned. */
export interface Settlement {
  state: 'done' | 'failed' | 'skipped';
  branch: string | null;
}

export type Verdict = 'run' | 'skip' | 'wait';

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
export function verdict(graph: PreparedGraph, step: PreparedStep, settled: ReadonlyMap<string, Settlement>): Verdict {
  if (step.before.length === 0) return 'run';
  let yes = false;
  let no = false;
  let open = false;
  for (const [from, alternatives] of step.before) {
    const settlement = settled.get(from);
    if (!settlement) {
      open = true;
      continue;
    }
    const { asides } = graph.steps.get(from)!;
    const judged = alternatives.map((link) => judge(link, settlement, asides));
    if (judged.includes('yes')) yes = true;
    else if (!judged.includes('neutral')) no = true;
  }
  if (step.document.join === 'any') return yes ? 'run' : open ? 'wait' : 'skip';
  if (open) return 'wait';
  return yes && !no ? 'run' : 'skip';
}
