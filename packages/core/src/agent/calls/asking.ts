import type { JsonObject } from '../../json/json.js';
import type { ApprovalNote } from '../../trace/receipts/receipt.js';
import type { AgentContext } from '../context.js';
import type { Patience } from '../conversation/timeout.js';

/** A call that somebody approved. */
export interface Permission {
  /** As asked, or as the approver changed it. */
  arguments: JsonObject;
  approval: ApprovalNote;
}

/** Where the question stands, and for how long an answer holds. */
export interface Asking {
  context: AgentContext;
  patience: Patience;
  /** What tells this conversation from others. */
  conversation: string;
  /** What is asked, where that is not whether a tool may be called. */
  title?: string;
  /** Arguments that the builder set. */
  fixed?: string[];
  /** Reasons for an approval in addition to the builder's rules. */
  reasons?: readonly string[];
  /** Whether it is asked only because the tool is new to the agent: then the approval holds for the agent. */
  isFirstUse?: boolean;
  /** What happens while somebody is asked. */
  waiting(what: string | null): void;
}
