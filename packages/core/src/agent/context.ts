import type { CallContext } from '../tools/source.js';
import type { Parked } from '../trace/journal/journal.js';
import type { AgentReplay } from './conversation/agent-replay.js';
import type { AgentEntry } from './conversation/conversation.js';

/** What an agent asks of the run it works in. */
export interface AgentServices {
  /**
   * Reports that the step waits for somebody or for a time; the journal is on disk when it returns, and the caller may
   * be notified. @param path below that of the step; its own if omitted
   */
  park(parked: Parked, path?: string): Promise<void>;
  /** What it waited for at a path below its own is there. */
  unpark(path: string): Promise<void>;
  /** Until when it was to wait at a path as the service stopped, in milliseconds since the epoch; null: open-ended. */
  parkedAt(path: string): number | null | undefined;
  /** What the journal already tells of the conversation that the step holds. */
  conversed(): AgentEntry[];
  /** How an agent works again from a record, where it does. */
  rehearsal(): AgentReplay | undefined;
}

/** Context of an agent: that of its step, and a way to wait and resume. */
export interface AgentContext extends CallContext {
  services: AgentServices;
}
