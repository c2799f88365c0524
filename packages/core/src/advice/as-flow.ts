import type { FlowDocument } from '../flow/document.js';
import { isObject, type Json, type JsonObject, type JsonSchema, setOwn } from '../json/json.js';

/** One successful call, with facts about the tool. */
export interface DoneCall {
  /** Calls of one round were made side by side. */
  round: number;
  tool: string;
  target: { server: string; tool: string } | { flow: string };
  /** What was sent. */
  arguments: JsonObject;
  /** Values of the builder's rules, as in the document. */
  set: JsonObject;
  schema: JsonSchema | null;
  /** What came back. */
  data: Json;
}

/** Values so short say nothing of where they come from, where they are no more than a number or a word of the tool's own. */
const SHORTEST = 2;

/**
 * Creates a flow that repeats the calls of a conversation without a model. An argument that occurs in the message
 * becomes an input, a value returned by an earlier call is read from that step, and everything else stays constant.
 * @param name of the new flow
 * @param message what the person wrote
 * @param calls of the conversation, oldest first, with arguments and results
 * @returns a document in the format `pindro/flow@1`
 */
export function asFlow(name: string, message: string, calls: readonly DoneCall[]): FlowDocument {
  const inputs = new Inputs(message);
  const made: { name: string; call: DoneCall; result: string }[] = [];
  const steps: JsonObject = {};
  for (const call of calls) {
    const step = freeName(call.tool, steps);
    const before = made.filter(({ call: { round } }) => round < call.round);
    const filled = traced(call, before, inputs);
    const last = Math.max(0, ...before.map(({ call: { round } }) => round));
    const after = before.filter(({ call: { round } }) => round === last).map((one) => one.name);
    const { target } = call;
    const config: JsonObject =
      'flow' in target
        ? { flow: target.flow, input: filled }
        : { server: target.server, tool: target.tool, ...(Object.keys(filled).length > 0 && { arguments: filled }) };
    steps[step] = {
      kind: 'flow' in target ? 'flow' : 'tool',
      ...(after.length > 0 && { after }),
      with: config,
    };
    made.push({ name: step, call, result: `steps.${step}.${'flow' in target ? 'result' : 'data'}` });
  }
  const last = Math.max(0, ...calls.map(({ round }) => round));
  const results = made.filter(({ call: { round } }) => round === last);
  const result: Json =
    made.length === 1 || results.length === 1
      ? `\${ ${results[0]!.result} }`
      : Object.fromEntries(made.map((one) => [one.name, `\${ ${one.result} }`]));
  return {
    format: 'pindro/flow@1',
    name,
    description: `Does what an agent did for: ${message.replace(/\s+/g, ' ').slice(0, 200)}`,
    input: inputs.schema(),
    steps,
    result,
  } as unknown as FlowDocument;
}

/** The arguments of a call, each by where it came from. */
function traced(call: DoneCall, before: readonly { call: DoneCall; result: string }[], inputs: Inputs): JsonObject {
  const out: JsonObject = {};
  for (const [name, value] of Object.entries(call.arguments)) {
    const property = propertyOf(call.schema, name);
    setOwn(out, name, Object.hasOwn(call.set, name) ? call.set[name]! : source(value, name, property, before, inputs));
  }
  return out;
}

function source(
  value: Json,
  name: string,
  property: JsonObject,
  before: readonly { call: DoneCall; result: string }[],
  inputs: Inputs,
): Json {
  if (Array.isArray(value)) return value.map((item) => source(item, name, {}, before, inputs));
  if (isObject(value))
    return Object.fromEntries(Object.entries(value).map(([key, item]) => [key, source(item, key, {}, before, inputs)]));
  if (inputs.holds(value)) return `\${ input.${inputs.named(name, value, property)} }`;
  for (const { call, result } of before.toReversed()) {
    const path = pathTo(call.data, value);
    if (path !== null) return `\${ ${result}${path} }`;
  }
  return typeof value === 'string' ? value.replaceAll('${', () => '$${') : value;
}

/** Returns the expression for a value inside a result; null if it is missing or uninformative. */
function pathTo(data: Json, value: Json): string | null {
  if (typeof value === 'boolean' || value === null || String(value).length < SHORTEST) return null;
  if (data === value) return '';
  const parts: [string, Json][] = Array.isArray(data)
    ? data.slice(0, 50).map((item, index) => [`[${index}]`, item])
    : isObject(data)
      ? Object.entries(data).map(([key, item]) => [
          /^[A-Za-z_]\w*$/.test(key) ? `.${key}` : `[${JSON.stringify(key)}]`,
          item,
        ])
      : [];
  for (const [step, item] of parts) {
    const rest = pathTo(item, value);
    if (rest !== null) return step + rest;
  }
  return null;
}

/** What the message gave, as inputs of a flow. */
class Inputs {
  readonly #properties: JsonObject = {};
  readonly #values = new Map<string, Json>();

  constructor(private readonly message: string) {}

  /** Whether a value was said. */
  holds(value: Json): boolean {
    if (typeof value === 'number')
      return new RegExp(`(?<![\\d.])${String(value).replace('.', '\\.')}(?![\\d]|\\.\\d)`).test(this.message);
    if (typeof value !== 'string' || value.trim() === '') return false;
    const quoted = value.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
    return new RegExp(`(?<![\\p{L}\\p{N}])${quoted}(?![\\p{L}\\p{N}])`, 'iu').test(this.message);
  }

  /** @returns the name of the input, which another argument with the same value has as well */
  named(argument: string, value: Json, property: JsonObject): string {
    const base = /^[a-z]\w*$/.test(argument) ? argument : 'value';
    for (let count = 1; ; count++) {
      const name = count === 1 ? base : `${base}_${count}`;
      if (!this.#values.has(name)) {
        this.#values.set(name, value);
        this.#properties[name] = Object.keys(property).length > 0 ? property : { type: typeof value };
        return name;
      }
      if (this.#values.get(name) === value) return name;
    }
  }

  schema(): JsonObject {
    return { type: 'object', required: Object.keys(this.#properties), properties: this.#properties };
  }
}

function propertyOf(schema: JsonSchema | null, name: string): JsonObject {
  const properties = isObject(schema?.properties) ? schema.properties : {};
  const property = Object.hasOwn(properties, name) ? properties[name] : undefined;
  // A reference leads nowhere from here.
  return isObject(property) && !JSON.stringify(property).includes('$ref') ? property : {};
}

function freeName(tool: string, taken: JsonObject): string {
  const base =
    tool
      .toLowerCase()
      .replace(/\W+/g, '_')
      .replace(/^[^a-z]+/, '') || 'step';
  const reserved = ['error', 'otherwise'];
  for (let count = 1; ; count++) {
    const name = count === 1 ? base : `${base}_${count}`;
    if (!Object.hasOwn(taken, name) && !reserved.includes(name)) return name;
  }
}
