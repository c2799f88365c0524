import type { Json, JsonObject, JsonSchema } from '../json.js';
import type { ModelConnection } from '../ports.js';

export interface ToolCall {
  id: string;
  name: string;
  /** As the model wrote them; text that is not a JSON object is kept in `unreadable`. */
  arguments: JsonObject;
  unreadable?: string;
}

/** One turn of a conversation, the same for every dialect. */
export type Turn =
  | { role: 'system'; text: string }
  | { role: 'user'; text: string }
  | { role: 'assistant'; text: string; calls: ToolCall[] }
  | { role: 'tool'; call: string; name: string; text: string; failed: boolean };

export interface OfferedTool {
  name: string;
  description: string;
  schema: JsonSchema;
}

export interface ModelAnswer {
  text: string;
  calls: ToolCall[];
  /** Tokens read and written; 0 where the model does not say. */
  usage: { input: number; output: number };
  /** Why it stopped, as the model says. */
  stop: string;
}

/** Reads an answer as its pieces arrive. */
export interface AnswerReader {
  /** @returns the text that is new in this piece */
  push(piece: string): string;
  /** @throws SyntaxError when what came is not an answer of the dialect */
  end(): ModelAnswer;
}

/** A model provider's wire format. One file each, one line in the registry. */
export interface Dialect {
  readonly name: string;
  /** Path below the connection's base address, and the JSON body to post there. */
  request(
    connection: ModelConnection,
    turns: Turn[],
    tools: OfferedTool[],
    schema?: JsonSchema,
  ): { path: string; body: Json };
  reader(): AnswerReader;
}
