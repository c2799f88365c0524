import { type Json, type ProposedFix, pointerParts, valueAt } from '@pindro/core';
import type { Parts } from '../platform/capability.js';
import { checkFix, type FixCheck } from './check-fix.js';
import { applyFix } from './fix.js';

type Sources = Pick<Parts, 'flows' | 'publishFlow' | 'servers' | 'models' | 'credentials'>;

export interface FixOutcome {
  made: boolean;
  checked: Pick<FixCheck, 'fine' | 'words'> | null;
  draft: { flow: string; live: number; others: boolean } | null;
}

/**
 * Applies a fix and asks whom it concerns whether it helps. A credential is restored where it does not, so that no fix
 * leaves anything worse than before.
 * @param publish whether the flow whose draft it changes is published too
 * @throws cure_stale, publish_breaks
 */
export async function applyProposedFix(cure: ProposedFix, publish: boolean, sources: Sources): Promise<FixOutcome> {
  const { credentials, servers } = sources;
  if (cure.do === 'change') return updateFlow(cure, publish, sources);
  const restore = cure.do === 'clean' || cure.do === 'form' ? credentials.restorePoint(cure.credential) : null;
  const refusing = servers.list().flatMap(({ name, state }) => (state === 'refused' ? [name] : []));
  await applyFix(cure, sources);
  const check = await checkFix(cure, sources, refusing);
  const isWorse = check?.worse === true && restore !== null;
  if (isWorse) restore();
  return { made: !isWorse, checked: check && { fine: check.fine, words: check.words }, draft: null };
}

async function updateFlow(
  cure: Extract<ProposedFix, { do: 'change' }>,
  publish: boolean,
  sources: Sources,
): Promise<FixOutcome> {
  const { flows, publishFlow } = sources;
  const before = flows.drafts.get(cure.flow);
  const others = before.live !== null && flows.revisions.isChanged(before);
  // The fix may have been applied by an earlier request that did not publish.
  const isMade = publish && same(valueAt(before.document, pointerParts(cure.at)), cure.to);
  if (!isMade) await applyFix(cure, sources);
  if (publish) {
    await publishFlow(cure.flow, { note: 'Published with a fix from a run' });
  }
  const { name, live } = flows.drafts.get(cure.flow);
  return { made: true, checked: null, draft: publish || live === null ? null : { flow: name, live, others } };
}

const same = (one: unknown, other: Json) => JSON.stringify(one ?? null) === JSON.stringify(other);
