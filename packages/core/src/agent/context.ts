import type { CallContext } from '../tools/source.js';
import type { Caller } from '../trace/journal/head.js';
import type { Parked } from '../trace/journal/journal.js';
import type { Stage } from '../trace/spans/states.js';
import type { AgentReplay } from './conversation/agent-replay.js';
import type { AgentEntry } from './conversation/conversation.js';

/** Context of an agent: that of its step, and a way to wait and resume. */
export interface AgentContext extends CallContext {
  flow: string;
  stage: Stage;
  caller: Caller;
  /** Tells that it waits at a path below its own; the record is on disk when it returns. */
  park(parked: Parked, path?: string): Promise<void>;
  /** What it waited for at a path is there. */
  unpark(path: string): Promise<void>;
  /** Until when it was to wait at a path as the service stopped, in milliseconds since the epoch; null: open-ended. */
  parkedAt(path: string): number | null | undefined;
  /** What the journal already tells of the conversation. */
  conversed(): AgentEntry[];
  /** How it works again from a record, where it does. */
  rehearsal(): AgentReplay | undefined;
}
