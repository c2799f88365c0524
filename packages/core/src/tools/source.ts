import type { ErrorRecord } from '../errors/errors.js';
import type { Json, JsonObject, JsonSchema } from '../json/json.js';
import type { OpenSpan, Recorder } from '../trace/journal/recorder.js';
import type { ApprovalNote, Receipt } from '../trace/receipts/receipt.js';
import type { Budget } from './budget.js';
import type { RunContext } from './run-context.js';
import type { StartFlow } from './start-flow.js';

/** Fills what a rule reads that is only there when its tool is called. */
export type FillLate = (value: Json, tool: string) => Json;

/** Context of a tool call. */
export interface CallContext {
  run: RunContext;
  recorder: Recorder;
  parentSpan: string;
  signal: AbortSignal;
  /** Where in the run the call stands; with the attempt it makes the idempotency key. */
  path: string;
  attempt: number;
  /** How long the step may take, in milliseconds, where that was said. */
  limit: number | null;
  /** Names of tools that were called in this conversation and did not fail. */
  succeeded?: ReadonlySet<string>;
  /** Fills a rule with what was kept earlier in the conversation. @throws tool_too_early where it is not there yet */
  late?: FillLate;
  /** Who approved the call, where somebody was asked. */
  approval?: ApprovalNote | undefined;
  /** What may still be spent, where whoever began this set a limit. */
  budget?: Budget | undefined;
}

export interface ToolAnswer {
  /** The text a model reads. */
  text: string;
  /** Structured content, or the text as JSON where it is that, or null. */
  data: Json;
  content: JsonObject[];
  /** The run that it began, where it is a flow. */
  run?: string;
  /** What it cost, where that was said. */
  cost?: number;
  /** What the agents of the run did, where it is a flow with agents. */
  receipt?: Receipt;
  /** What is kept of it for the rest of the conversation. */
  kept?: JsonObject;
  /** What the trace keeps of it, where that is something else. */
  record?: Json;
}

/** One active call, with its span. */
export interface Calling extends CallContext {
  span: OpenSpan;
  /** Maximum age of a cached result in milliseconds; 0: call again. */
  fresh: number;
}

/** A tool from any source. Wrappers have the same interface, so that they can be nested. */
export interface SourceTool {
  name: string;
  description: string;
  /** Identifies what is called, whatever it is named: an approval of something else does not cover it. */
  identity: string;
  /** The tool server that it belongs to, where its calls leave the service. */
  server?: string;
  /** Flagged text in its description. */
  flagged?: string;
  /** Since when it is as it is, where it appeared or changed later; in milliseconds since the epoch. */
  changedAt?: number;
  /** What it takes, as whoever calls it sees it. */
  schema: JsonSchema;
  /** Where it comes from, for people: `lift`, `flow reserve-bunks`. */
  origin: string;
  /** What a span of a call says of it. */
  attributes: JsonObject;
  /** Whether its answers may be kept for a while. */
  reads: boolean;
  /** Set if an interrupted call resumes when it is repeated at the same place. */
  resumes?: boolean;
  /** What will be sent for what is asked: with what the rules add. @throws arguments_refused */
  prepare?(given: JsonObject, late?: FillLate): JsonObject;
  /** The schema of what is sent, where that is not what is asked. */
  sends?: JsonSchema;
  call(given: JsonObject, calling: Calling): Promise<ToolAnswer>;
}

/** What a source has to offer now. */
export interface Listing {
  tools: SourceTool[];
  /** What the source says to whoever uses its tools. */
  instructions: string;
  /** Set where it could not be reached; the tools are the ones last seen. */
  unreachable?: { server: string; error: ErrorRecord };
  /** Tools on hold, with the reason. */
  held: Record<string, string>;
}

/** What sources need to lay out their tools. */
export interface SourceContext {
  run: Pick<RunContext, 'ports' | 'stage'>;
  signal: AbortSignal;
  services: { startFlow: StartFlow };
  /** Fills expressions in what stands outside of the step, such as the rules of an endpoint. */
  fill(value: Json, at: PropertyKey[]): Json;
}

/** A source of tools. Each kind of origin has a file in `sources/`. */
export interface ToolSource {
  /** Prefix for a name that is taken. */
  name: string;
  /** @param choose which of the tools are wanted, by their names */
  list(context: SourceContext, choose: (names: readonly string[]) => readonly string[]): Promise<Listing>;
}
