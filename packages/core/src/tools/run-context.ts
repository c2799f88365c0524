import type { Ports } from '../ports/ports.js';
import type { Caller } from '../trace/journal/head.js';
import type { Stage } from '../trace/spans/states.js';
import type { Budget } from './budget.js';

/** What every step, agent and tool call of a run has in common. Built once per run. */
export interface RunContext {
  readonly ports: Ports;
  /** Name of the flow. */
  readonly flow: string;
  readonly stage: Stage;
  readonly caller: Caller;
  /** What the agents of the run may still spend, where whoever began it set a limit. */
  readonly budget?: Budget | undefined;
}
