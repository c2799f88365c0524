import type { ErrorRecord } from '../errors.js';
import type { Json, JsonObject } from '../json.js';
import type { RunState, Stage } from './states.js';

export type { RunState, Stage };

/** On whose behalf a run happens, with what may be used as `caller.…` in expressions. */
export interface Caller {
  id: string;
  attributes: JsonObject;
  /** Names of credentials of the caller's own, by the tool server they are for. No expression sees them. */
  credentials?: { [server: string]: string };
}

/** Where a run came from. */
export type Entry = 'hand' | 'chat' | 'tool' | 'flow' | 'agent' | 'again' | 'hook' | 'form' | 'schedule';

/** How a try-out differs from an ordinary run. Never set for live runs. */
export interface Trial {
  /** The one step that is done; all others stand as the run it borrows from left them. */
  only?: string;
  /** Steps whose kept result stands in for doing them. */
  held?: string[];
  /** Whether it waits before each step until it is told to go on. */
  stepping?: boolean;
}

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
  /** The span of the run itself, so that a resumed run goes on under it. */
  span: string;
  trial?: Trial;
  through?: Through;
}

/** The tool call from outside that a run answers. */
export interface Through {
  endpoint: string;
  tool: string;
  /** The id of the access key. */
  key: string;
  /** What the client calls itself. */
  client: string;
}

/** What a run waits for. */
export interface Parked {
  for: 'person' | 'time' | 'run';
  /** When the waiting ends by itself, in milliseconds since the epoch, or null. */
  until: number | null;
  /** What it waits for, in words. */
  what: string;
}

/** A value that may hold secrets, with the secrets in it; whoever stores it must encrypt it. */
export interface Sealed {
  value: Json;
  secrets: string[];
}

/** Append-only: `(run, sequence)` identifies an entry; a run can be told again from its entries alone. */
export type JournalEntry = { run: string; sequence: number; at: number } & JournalBody;

export type JournalBody =
  /**
   * `sealed` is the whole input where parts of it are sensitive; whoever stores it must encrypt it. `document` is what
   * runs, so that the run can be shown and go on whatever becomes of the flow; it is best stored once for all runs of it.
   */
  | { type: 'started'; head: RunHead; sealed?: Json; document?: Json }
  /**
   * Work that cannot be repeated is about to begin. A path is the step's name, or STEP/INDEX/STEP inside a loop. `what`
   * says in words what it is about to do.
   */
  | { type: 'step_begun'; path: string; attempt: number; kind?: string; what?: string }
  /** An attempt at such work failed for sure, and another one follows. */
  | { type: 'attempt_failed'; path: string; attempt: number }
  | {
      type: 'step_settled';
      path: string;
      attempt: number;
      state: 'done' | 'failed' | 'skipped';
      branch: string | null;
      output: Json;
      /** The whole output, where masking changed it. */
      sealed?: Sealed;
      error?: ErrorRecord;
    }
  /** The run began another one. Until the step is settled it waits for it, unless that run is on its own. */
  | { type: 'child'; path: string; child: string; span: string }
  | ({ type: 'parked'; path: string; span: string } & Parked)
  | { type: 'unparked'; path: string }
  /** The caller has its answer; the run goes on. */
  | { type: 'answered'; result: Json }
  | { type: 'agent_round'; path: string; round: number; calls: string[]; tokens: number }
  | { type: 'ended'; state: RunState; result: Json; error?: ErrorRecord };
