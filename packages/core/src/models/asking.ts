import type { JsonSchema } from '../json/json.js';
import type { FetchPort, ModelConnection, SecretPort } from '../ports/ports.js';
import type { Masker } from '../trace/secrets/masking.js';
import type { TraceFields } from '../trace/spans/context.js';
import type { ModelAnswer, OfferedTool, ToolChoice, Turn } from './dialect.js';

/** Notified when a model is retried or replaced by its fallback. */
export interface ModelRetry {
  /** The reason. */
  why: string;
  /** How long was waited before, in milliseconds. */
  waited: number;
  /** Which connection is asked now. */
  connection: string;
}

export interface AskOptions {
  fetch: FetchPort;
  secrets: SecretPort;
  masker: Masker;
  signal: AbortSignal;
  /** The fields that continue the trace at the model's address. */
  trace?: TraceFields;
  onText?: (text: string) => void;
  /** A schema that the answer must fit. */
  schema?: JsonSchema;
  choice?: ToolChoice;
  /** The answer may be so long, in tokens, where that is shorter than the connection says. */
  longest?: number;
  /** How a fallback is found; without it there is none. */
  connectionNamed?: (name: string) => Promise<ModelConnection>;
  onAgain?: (again: ModelRetry) => void;
}

/** Asks a model. Whoever wraps that has the same shape: a file in `wrap/` each. */
export type Ask = (
  connection: ModelConnection,
  turns: readonly Turn[],
  tools: readonly OfferedTool[],
  options: AskOptions,
) => Promise<AskedAnswer>;

export interface AskedAnswer extends ModelAnswer {
  /** Which connection answered. */
  by: ModelConnection;
  /** Settings that the model does not support, and that were omitted. */
  omitted?: string[];
}
