import type { Json, JsonObject, JsonSchema } from '../json/json.js';
import type { ModelConnection } from '../ports/ports.js';
import type { ModelSettings } from './settings.js';

export interface ToolCall {
  id: string;
  name: string;
  /** As the model wrote them; text that is not a JSON object is kept in `unreadable`. */
  arguments: JsonObject;
  unreadable?: string;
}

/** A picture, in base64. */
export interface Picture {
  type: string;
  data: string;
}

/** What a model thought before it answered. */
export interface Reasoning {
  text: string;
  /** What the dialect of that name wants back in the next round, as it came. */
  kept?: { dialect: string; parts: Json[] };
}

/** One turn of a conversation, independent of the dialect. */
export type Turn =
  | { role: 'system'; text: string }
  | { role: 'user'; text: string }
  | { role: 'assistant'; text: string; calls: ToolCall[]; reasoning?: Reasoning }
  | { role: 'tool'; call: string; name: string; text: string; failed: boolean; pictures?: Picture[] };

export interface OfferedTool {
  name: string;
  description: string;
  schema: JsonSchema;
}

/** Which tools the model may use now: any, none, at least one, or a certain one. */
export type ToolChoice = 'auto' | 'none' | 'required' | { tool: string };

/** Why an answer ended: it is whole, calls tools, came to the longest length, was refused, or is to be continued. */
export type AnswerEnd = 'answer' | 'calls' | 'length' | 'refusal' | 'paused';

export interface Usage {
  /** Tokens read, those that were cached among them; 0 where the model does not say. */
  input: number;
  output: number;
  cached: number;
}

export interface ModelAnswer {
  text: string;
  calls: ToolCall[];
  usage: Usage;
  end: AnswerEnd;
  /** Why it stopped, in the word of the model. */
  stop: string;
  reasoning?: Reasoning;
}

/** Reads an answer as its pieces arrive. */
export interface AnswerReader {
  /** @returns the text that is new in this piece */
  push(piece: string): string;
  /** @throws SyntaxError when what came is not an answer of the dialect */
  end(): ModelAnswer;
}

/** What a model is asked. */
export interface Question {
  connection: ModelConnection;
  settings: ModelSettings;
  turns: readonly Turn[];
  tools: readonly OfferedTool[];
  choice: ToolChoice;
  /** A schema that the answer must fit. */
  schema?: JsonSchema | undefined;
}

/** Reason of a refusal in a model's response format. */
export type Refusal = 'key' | 'unpaid' | 'busy' | 'model' | 'context' | 'request' | 'fault';

/** A model provider's wire format. One file each, one line in the registry. */
export interface Dialect {
  readonly name: string;
  /** How its servers usually expect the key. */
  readonly key: string;
  /** Path below the connection's base address, and the JSON body to post there. */
  request(question: Question): { path: string; body: JsonObject };
  reader(): AnswerReader;
  /** A tool's schema in the form of the dialect, and the parts that are sent as text only. */
  schema(schema: JsonSchema): { schema: JsonSchema; lost: string[] };
  /** What a body of an error is about, where it says so. */
  refusal(status: number, body: JsonObject): Refusal;
  /** The names in the answer to a question for what models there are, which is asked at `models`. */
  models(body: JsonObject): string[];
}
