import { asPindroError, type Json, Replay } from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { Runner } from './runner.js';
import type { RunRecord, RunStore } from './store.js';
import type { RunWriter } from './writer.js';

interface Parts {
  runs: RunStore;
  runner: Runner;
  flows: FlowStore;
  writer: RunWriter;
  unseal(sealed: string): Json;
}

/**
 * Lets every run go on that waited for somebody or a time when the service stopped. What its journal tells is not done
 * again. A run that another one waits for is taken up by that one.
 */
export function resumeWaiting(parts: Parts): void {
  const waiting = parts.runs.waiting();
  const replays = new Map(
    waiting.map((run) => [run.head.id, new Replay(parts.runs.recall(run.head.id, parts.unseal))] as const),
  );
  const takenUp = new Set([...replays.values()].flatMap((replay) => replay.openChildren()));
  for (const run of waiting) {
    const replay = replays.get(run.head.id)!;
    parts.writer.takeUp(run.head.id, replay.openPaths());
    if (!takenUp.has(run.head.id)) resume(run, replay, parts);
  }
}

function resume({ head, sealed }: RunRecord, replay: Replay, { runner, flows, unseal }: Parts): void {
  const input = sealed === null ? head.input : unseal(sealed);
  const base = { ...head, runId: head.id, input, resume: replay.entries };
  const { trial: _, ...request } = base;
  try {
    const { document, revision } = flows.loadNow(head.flow, head.stage, head.revision ?? undefined);
    runner.begin({ ...request, document, revision });
  } catch (error) {
    // The flow is gone: the run ends with that as its reason instead of waiting for ever.
    const gone = asPindroError(error);
    const document = { format: 'pindro/flow@1' as const, name: head.flow, steps: {} };
    runner.begin({ ...request, document, revision: head.revision, refusal: gone });
  }
}
