import { asJson, type Finding, type FlowDocument, type ProposedFix, Replay } from '@pindro/core';
import type { Parts } from '../platform/capability.js';
import { fromRecord } from '../runs/retry.js';
import { setAt } from './set-at.js';

/** Number of recent runs with the same finding to test. */
const MOST = 5;

type Sources = Pick<Parts, 'runs' | 'runner' | 'problems' | 'diagnoser'>;

export interface Tried {
  tried: number;
  cured: number;
  /** Runs that could not be tested or were not fixed, with the reason. */
  left: { run: string; why: string }[];
}

/**
 * Tries a change on recorded runs that showed the same finding: with what was recorded in place of all that stands before
 * it, and without doing anything for real.
 */
export async function tryFix(
  cure: Extract<ProposedFix, { do: 'change' }>,
  finding: Finding,
  sources: Sources,
): Promise<Tried> {
  const { problems } = sources;
  const known = problems.has(finding.fingerprint) ? problems.runsOf(finding.fingerprint, MOST) : [finding.run];
  const found: Tried = { tried: 0, cured: 0, left: [] };
  for (const run of known) {
    const why = await tryOne(run, cure, finding, sources);
    if (why === 'not tested')
      found.left.push({ run, why: 'Later steps would have real effects, or contact somebody.' });
    else {
      found.tried++;
      if (why === '') found.cured++;
      else found.left.push({ run, why });
    }
  }
  return found;
}

/** @returns empty if fixed, otherwise what still fails; `not tested` if it would have real effects */
async function tryOne(
  id: string,
  cure: Extract<ProposedFix, { do: 'change' }>,
  finding: Finding,
  { runs, runner, diagnoser }: Sources,
): Promise<string> {
  const ran = runs.documentOf(id);
  const { head } = runs.get(id);
  const step = /^\/steps\/([^/]+)/.exec(cure.at)?.[1];
  if (!ran || head.flow !== cure.flow || step === undefined) return 'not tested';
  const document = asJson(structuredClone(ran));
  try {
    setAt(document, cure.at, cure.from, cure.to);
  } catch (error) {
    return (error as Error).message;
  }
  const record = fromRecord(document as unknown as FlowDocument, new Replay(runs.recall(id)), step);
  // Nobody outside is asked anything for a try.
  if (record.live.length + record.reaching.length > 0) return 'not tested';
  const { outcome } = runner.begin({
    ...{
      document: document as unknown as FlowDocument,
      revision: null,
      stage: 'draft' as const,
      entry: 'again' as const,
    },
    ...{ caller: { id: head.caller.id, attributes: head.caller.attributes }, session: null },
    ...{ input: runs.inputOf(id), trial: { held: record.held } },
  });
  const { run } = await outcome;
  const left = await diagnoser.of(runs.tree(run));
  const same = left.find(({ fingerprint }) => fingerprint === finding.fingerprint);
  const worse = left.find(({ severity }) => severity === 'failure');
  return (same ?? worse)?.title ?? '';
}
