import {
  asPindroError,
  type FlowDocument,
  type JsonObject,
  PindroError,
  Replay,
  type RunRequest,
  stepKind,
} from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { RunRecord, RunStore } from '../record/reading/run-store.js';
import type { SqliteJournal } from '../record/sqlite-journal.js';
import type { Runner } from './runner.js';

interface Parts {
  runs: RunStore;
  runner: Runner;
  flows: FlowStore;
  journal: SqliteJournal;
}

interface Cut {
  run: RunRecord;
  replay: Replay;
}

/**
 * Settles every run that was in progress or waiting when the service stopped. Runs without an unknown outcome resume:
 * recorded steps are not repeated, and table ledgers answer. Others end as interrupted and name the step.
 * @returns numbers of resumed and interrupted runs
 */
export async function recoverRuns({
  runs,
  runner,
  flows,
  journal,
}: Parts): Promise<{ wentOn: number; inDoubt: number }> {
  const cut = runs.open().map((run): Cut => ({ run, replay: recalled(run, runs) }));
  const doubtful = cut.filter((one) => doubtOf(one) !== null);
  for (const one of doubtful) end(one, doubtOf(one)!, { runs, journal });
  for (const { run } of doubtful) await journal.commit(run.head.id);
  const sound = cut.filter((one) => !doubtful.includes(one));
  // A run that another one waits for is taken up by that one.
  const takenUp = new Set(sound.flatMap(({ replay }) => replay.openChildren()));
  for (const { run, replay } of sound) {
    journal.takeUp(run.head.id, replay.openPaths());
    if (!takenUp.has(run.head.id)) goOn(run, replay, { runner, flows });
  }
  return { wentOn: sound.length, inDoubt: doubtful.length };
}

/** What is known of a run; nothing where its record is damaged: that must not keep the service from starting. */
function recalled({ head }: RunRecord, runs: RunStore): Replay {
  try {
    return new Replay(runs.recall(head.id));
  } catch (error) {
    asPindroError(error);
    return new Replay([]);
  }
}

/** Facts about why a run cannot resume, or null. */
function doubtOf({ run, replay }: Cut): JsonObject | null {
  if (run.head.trial) return { trial: true };
  if (replay.entries[0]?.type !== 'started') return { lost: true };
  const begun = replay.allLeftOpen().find(({ kind }) => kind === undefined || !stepKind(kind)?.ledger);
  if (!begun) return null;
  return { step: begun.path, attempt: begun.attempt, kind: begun.kind ?? '', what: begun.what ?? '' };
}

function end({ run, replay }: Cut, doubt: JsonObject, { runs, journal }: Pick<Parts, 'runs' | 'journal'>): void {
  const rounds = replay.entries.filter((entry) => entry.type === 'agent_round' && entry.path === doubt.step);
  const called = rounds.flatMap((entry) => (entry.type === 'agent_round' ? entry.calls : []));
  const children = runs.childrenOf(run.head.id).map(({ head, state }) => ({ run: head.id, flow: head.flow, state }));
  const details: JsonObject = { ...doubt, ...(rounds.length > 0 && { rounds: rounds.length, called }), children };
  const at = typeof doubt.step === 'string' ? `/steps/${doubt.step.split('/')[0]}` : undefined;
  const error = new PindroError('interrupted', {}, { details, ...(at && { at }) }).toRecord();
  const { id } = run.head;
  const entry = { run: id, sequence: replay.length, at: Date.now(), type: 'ended', state: 'interrupted' } as const;
  journal.append({ type: 'journal', entry: { ...entry, result: null, error } });
}

function goOn({ head, sealed }: RunRecord, replay: Replay, { runner, flows }: Pick<Parts, 'runner' | 'flows'>): void {
  const started = replay.entries[0]!;
  const kept = started.type === 'started' ? started : null;
  const input = sealed === null ? head.input : (kept?.sealed ?? head.input);
  const { trial: _, ...rest } = head;
  const base = { ...rest, runId: head.id, input, resume: replay.entries };
  runner.begin({ ...base, ...documentFor(kept?.document as FlowDocument | undefined, base, flows) });
}

/** What ran; for runs from before documents were kept, what the flow is now. */
function documentFor(
  kept: FlowDocument | undefined,
  { flow, stage, revision }: { flow: string; stage: RunRequest['stage']; revision: number | null },
  flows: FlowStore,
): Pick<RunRequest, 'document' | 'revision' | 'refusal'> {
  if (kept) return { document: kept, revision };
  try {
    return flows.loadNow(flow, stage, revision ?? undefined);
  } catch (error) {
    // The flow is gone: the run ends with that as its reason instead of waiting for ever.
    const document: FlowDocument = { format: 'pindro/flow@1', name: flow, steps: {} };
    return { document, revision, refusal: asPindroError(error) };
  }
}
