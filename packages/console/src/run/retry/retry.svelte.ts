import type { RunDetail } from '@pindro/contract/light';
import { attribute, isObject, type Json, type JsonObject, type JsonSchema, MASK, pointer } from '@pindro/core/browser';

/** A schema of just one value, so that every part of it is a field. What is masked can only stay as it is. */
export function schemaOfValue(value: Json): JsonSchema {
  if (Array.isArray(value)) return { type: 'array', items: value.length > 0 ? schemaOfValue(value[0]!) : {} };
  if (isObject(value)) {
    const parts = Object.entries(value).filter(([, part]) => part !== MASK);
    return {
      type: 'object',
      required: parts.map(([name]) => name),
      properties: Object.fromEntries(parts.map(([name, part]) => [name, schemaOfValue(part)])),
    };
  }
  if (value === null) return {};
  return typeof value === 'string' && value.length > 80 ? { type: 'string', form: 'long' } : { type: typeof value };
}

/** Returns where two values differ, by JSON Pointer, with the new value. Lists are compared as a whole. */
export function placesChanged(before: Json | undefined, after: Json | undefined, at: readonly string[]): JsonObject {
  if (JSON.stringify(before) === JSON.stringify(after)) return {};
  if (!isObject(before) || !isObject(after)) return { [pointer(at)]: after ?? null };
  const names = [...new Set([...Object.keys(before), ...Object.keys(after)])];
  return Object.assign({}, ...names.map((name) => placesChanged(before[name], after[name], [...at, name])));
}

/** What the step was given, as it was filled in; null where the record does not have it whole. */
export function givenTo(run: RunDetail, step: string): JsonObject | null {
  const span = run.spans.find((one) => one.work === 'step' && one.run === run.id && one.name === step);
  const given = span?.input as Json | undefined;
  if (!isObject(given) || given.cut) return null;
  // A toolbox is changed where it is drawn.
  const { toolbox: _, ...rest } = given;
  return Object.keys(rest).length > 0 ? rest : null;
}

/** What the tools of a step's agent gave last, by their names. */
export function answersTo(run: RunDetail, step: string): JsonObject {
  const own = run.spans.find((one) => one.work === 'step' && one.run === run.id && one.name === step);
  const agents = run.spans.filter(({ work, parentId }) => work === 'agent' && parentId === own?.spanId);
  const calls = run.spans.filter(
    ({ work, status, parentId }) => work === 'tool' && status === 'ok' && agents.some((one) => one.spanId === parentId),
  );
  return Object.fromEntries(calls.map((call) => [String(call.attributes[attribute.tool]), resultOf(call.output)]));
}

/** The data of a result, or its text where it has none. */
function resultOf(output: unknown): Json {
  if (!isObject(output as Json)) return (output ?? null) as Json;
  const { structuredContent, content } = output as JsonObject;
  if (structuredContent !== undefined) return structuredContent;
  const blocks = Array.isArray(content) ? content.filter(isObject) : [];
  const text = blocks.map((block) => String(block.text ?? '')).join('\n');
  return blocks.length > 0 ? text : (output as Json);
}

const copy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** What is another when a run is done again: its input, what a step is given, what the tools of its agent answer. */
export class Otherwise {
  /** As it was; null where the record does not have it whole, or there is none. */
  readonly was: { input: JsonObject | null; config: JsonObject | null; answers: JsonObject };
  input = $state.raw<JsonObject>({});
  config = $state.raw<JsonObject>({});
  answers = $state.raw<JsonObject>({});

  constructor(
    run: RunDetail,
    /** The step it is done from; empty: the beginning. */
    readonly from: string,
  ) {
    const input = run.input as Json;
    this.was = {
      input: isObject(input) && !input.cut && Object.keys(input).length > 0 ? input : null,
      config: from ? givenTo(run, from) : null,
      answers: from ? answersTo(run, from) : {},
    };
    this.input = copy(this.was.input ?? {});
    this.config = copy(this.was.config ?? {});
    this.answers = copy(this.was.answers);
  }

  /** What is asked of the service; empty where nothing is another. */
  get body(): JsonObject {
    const { input, config, answers } = this.was;
    const set = config ? placesChanged(config, this.config, ['steps', this.from, 'with']) : {};
    const other = Object.entries(this.answers).filter(
      ([tool, answer]) => JSON.stringify(answer) !== JSON.stringify(answers[tool]),
    );
    return {
      ...(input && JSON.stringify(this.input) !== JSON.stringify(input) && { input: this.input }),
      ...(Object.keys(set).length > 0 && { set }),
      ...(other.length > 0 && { answers: Object.fromEntries(other) }),
    };
  }
}
