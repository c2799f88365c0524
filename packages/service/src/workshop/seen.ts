import type { Finding, Span } from '@pindro/core';
import type { RunRecord, RunStore } from '../record/reading/run-store.js';

/** What an assistant may see of a run: its tree, without flows that are not open. */
export interface SeenRun {
  run: RunRecord;
  spans: Span[];
  findings: Pick<Finding, 'severity' | 'title' | 'why' | 'fix' | 'place'>[];
  /** The flow that each run of the tree is of. */
  flowOf(run: string): string;
}

/** @param open names of the flows that are open; the run itself must be of one of them */
export function seenRun(id: string, open: readonly string[], runs: RunStore): SeenRun {
  const tree = runs.tree(id);
  const flows = new Map(tree.map(({ head }) => [head.id, head.flow]));
  const flowOf = (run: string) => flows.get(run) ?? '';
  const isSeen = ({ run }: { run: string }) => open.includes(flowOf(run));
  const spans = runs.spans(tree);
  const findings = runs.findings(tree, spans).map((finding) => {
    const { severity, title, why, fix, place } = finding;
    return isSeen(finding) ? { severity, title, why, fix, place } : { ...HIDDEN, severity };
  });
  return { run: tree[0]!, spans: spans.filter(isSeen), findings, flowOf };
}

const HIDDEN = {
  title: 'The failure is in a flow that is not open to you',
  why: '',
  fix: 'Ask its builder.',
  place: null,
};
