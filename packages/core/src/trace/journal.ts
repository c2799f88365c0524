import type { ErrorRecord } from '../errors.js';
import type { Json, JsonObject } from '../json.js';

export type RunState = 'queued' | 'running' | 'waiting' | 'done' | 'failed' | 'cancelled' | 'interrupted';
export type Stage = 'draft' | 'live';

/** On whose behalf a run happens, with what may be used as `caller.…` in expressions. */
export interface Caller {
  id: string;
  attributes: JsonObject;
}

/** Where a run came from. */
export type Entry = 'hand' | 'chat' | 'tool' | 'flow' | 'agent' | 'again';

/** What a run is, from its first moment on. */
export interface RunHead {
  id: string;
  traceId: string;
  /** The span under which the run stands in its parent, or null. */
  parentSpan: string | null;
  parentRun: string | null;
  flow: string;
  /** The published revision, or null for the draft. */
  revision: number | null;
  stage: Stage;
  entry: Entry;
  caller: Caller;
  session: string | null;
  input: Json;
  startedAt: number;
}

/** Append-only: `(run, sequence)` identifies an entry; a run can be told again from its entries alone. */
export type JournalEntry = { run: string; sequence: number; at: number } & JournalBody;

export type JournalBody =
  /** `sealed` is the whole input where parts of it are sensitive; whoever stores it must encrypt it. */
  | { type: 'started'; head: RunHead; sealed?: Json }
  | {
      type: 'step_settled';
      path: string;
      attempt: number;
      state: 'done' | 'failed' | 'skipped';
      branch: string | null;
      output: Json;
      error?: ErrorRecord;
    }
  | { type: 'agent_round'; path: string; round: number; calls: string[]; tokens: number }
  | { type: 'ended'; state: RunState; result: Json; error?: ErrorRecord };
