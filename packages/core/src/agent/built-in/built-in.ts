import type { JsonObject, JsonSchema } from '../../json/json.js';
import type { ToolAnswer } from '../../tools/source.js';
import type { OnExchange } from '../../trace/exchanges/exchange.js';
import type { Asking } from '../calls/asking.js';
import type { AgentContext } from '../context.js';

/** A tool that every agent can have without anything being attached. A file each, and a line in the registry. */
export interface BuiltIn {
  name: string;
  description: string;
  schema: JsonSchema;
  /** Whether it changes nothing. */
  reads: boolean;
  /** @param given as its schema has it */
  call(given: JsonObject, context: AgentContext & { captureExchange: OnExchange }, asking: Asking): Promise<ToolAnswer>;
}

/** What a tool gives back, as text for the model and as data. */
export function gives(data: JsonObject): ToolAnswer {
  const text = JSON.stringify(data);
  return { text, data, content: [{ type: 'text', text }] };
}
