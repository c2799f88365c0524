import type { ErrorRecord } from '../errors/errors.js';
import type { Json } from '../json/json.js';
import type { Parked } from '../trace/journal/journal.js';
import type { Receipt } from '../trace/receipts/receipt.js';
import type { Budget } from './budget.js';

/** Outcome of a run. */
export interface FlowOutcome {
  run: string;
  /** `waiting` and `running`: the run continues, and its caller receives this state. */
  state: 'done' | 'failed' | 'cancelled' | 'waiting' | 'running';
  result: Json;
  error?: ErrorRecord;
  waitsFor?: Parked;
  /** What the agents of the run did. */
  receipt?: Receipt;
  /** Steps that were to change rows and matched none, which the flow does not ask about. */
  unchanged?: string[];
}
export type StartFlow = (
  name: string,
  input: Json,
  /**
   * `wait`: whether the work continues only after the run has answered. `at`: path in the run, if not that of the
   * step.
   */
  options: {
    parentSpan: string;
    entry: 'flow' | 'agent';
    signal: AbortSignal;
    wait?: boolean;
    at?: string;
    budget?: Budget | undefined;
  },
) => Promise<FlowOutcome>;
