import { z } from 'zod';
import { countMistakes, type Mistake, PindroError } from '../errors/errors.js';
import { findUnsafe, isObject, type Json, type JsonObject, ownOf, pointer, valueAt } from '../json/json.js';
import { RESERVED_NAMES, type StepDocument, stepSchema } from '../steps/document.js';
import type { Surroundings } from '../steps/environment.js';
import { KIND_NAMES, stepKind } from '../steps/registry.js';
import { didYouMean } from '../text/suggest.js';
import { lookupSchema } from '../tools/lookup-schema.js';
import { schemaFault } from '../tools/schema.js';
import { type FlowDocument, flowSchema } from './document.js';
import { checkExpressions, type ExpressionMistake } from './expressions.js';
import { graphOf, readLink } from './graph.js';
import { LOOKUP_KEYWORD, lookupReferences, lookupsOf } from './input-lookups.js';
import { tooLong, tooMuch } from './limits.js';
import { checkReferences } from './references.js';
import { firstMistakes, knownKeys, mistakesOf } from './shape.js';
import { readSource, type Source, sourceOf } from './source.js';

export type { Surroundings };

export type CheckResult =
  | { document: FlowDocument; mistakes: [] }
  | { document: null; mistakes: Mistake[]; name: string };

/**
 * Checks a flow written as YAML or JSON text, or given as a value, and locates its mistakes, a hundred at most.
 * @param written YAML or JSON text, or a value
 * @param surroundings names that the flow may use; what is omitted is not checked
 * @returns the document, or null, with its mistakes
 */
export function checkFlow(written: string | Json, surroundings: Surroundings = {}): CheckResult {
  const source = readFlow(written);
  const mistakes = [...source.mistakes];
  const name = isObject(source.value) && typeof source.value.name === 'string' ? source.value.name : '?';
  if (mistakes.length === 0) mistakes.push(...checkValue(source, surroundings));
  if (mistakes.length > 0) return { document: null, mistakes, name };
  return { document: flowSchema.parse(source.value), mistakes: [] };
}

/** A flow as far as it can be read; mistakes are what keeps it from being a document at all, or a safe one. */
export function readFlow(written: string | Json): Source {
  const long = tooLong(written);
  if (long) return { value: undefined, mistakes: [long], locate: (mistake) => mistake };
  const source = typeof written === 'string' ? readSource(written) : sourceOf(written);
  const refused = source.mistakes.length === 0 && refusalOf(source.value);
  return refused ? { ...source, mistakes: [source.locate(refused)] } : source;
}

function refusalOf(value: Json | undefined): Mistake | undefined {
  if (!isObject(value))
    return {
      at: '',
      message: 'A flow needs "format", "name" and "steps"',
      hint: 'Start with "format: pindro/flow@1".',
    };
  const unsafe = findUnsafe(value);
  return tooMuch(value) ?? (unsafe && { at: unsafe.at, message: `The value ${unsafe.why}` });
}

/**
 * Checks a flow and returns its document.
 * @param written YAML or JSON text, or a value
 * @param surroundings names that the flow may use
 * @returns the document
 * @throws flow_invalid with every mistake
 */
export function requireFlow(written: string | Json, surroundings: Surroundings = {}): FlowDocument {
  const checked = checkFlow(written, surroundings);
  if (checked.document) return checked.document;
  throw flowInvalid(checked);
}

/**
 * Creates the error for an invalid document, with all mistakes.
 * @param checked what {@link checkFlow} returned, with the name of the flow
 * @returns the error `flow_invalid`
 */
export function flowInvalid({ mistakes, ...rest }: CheckResult): PindroError {
  return new PindroError(
    'flow_invalid',
    { name: 'name' in rest ? String(rest.name) : '?', count: countMistakes(mistakes) },
    { mistakes, ...(mistakes[0] && { at: mistakes[0].at }) },
  );
}

function checkValue({ value, locate }: Source, surroundings: Surroundings): Mistake[] {
  const parsed = flowSchema.safeParse(value);
  const shape = parsed.success ? [] : shapeMistakes(parsed.error, value);
  // What is wrong in form must not hide what is wrong in the rest.
  const rest = parsed.success ? { document: parsed.data, without: [] } : soundPart(value as Json, parsed.error);
  const meaning = rest
    ? firstMistakes([rest.document], (document) => meaningOf(document, surroundings)).filter(
        ({ at }) => !rest.without.some((gone) => at === gone || at.startsWith(`${gone}/`)),
      )
    : [];
  const all = [...shape, ...meaning].slice(0, MOST_TOLD);
  return all.map(({ expression, ...mistake }: ExpressionMistake) => locate(mistake, expression));
}

/** Maximum number of reported mistakes. */
const MOST_TOLD = 100;
/** Removing an invalid part may reveal further mistakes. */
const ROUNDS = 5;

/**
 * Returns a flow without invalid parts, so that the rest can be checked. Steps remain, so that references to them are
 * valid.
 * @returns null if nothing is left
 */
function soundPart(value: Json, error: z.core.$ZodError): { document: FlowDocument; without: string[] } | null {
  const part = structuredClone(value) as JsonObject;
  const without: string[] = [];
  let issues = error.issues;
  for (let round = 0; round < ROUNDS; round++) {
    for (const issue of issues) without.push(...takeOut(part, issue));
    const parsed = flowSchema.safeParse(part);
    if (parsed.success) return { document: parsed.data, without };
    issues = parsed.error.issues;
  }
  return null;
}

/** Placeholder of a required part. */
const NEEDED: Record<string, Json> = { format: 'pindro/flow@1', name: 'a-flow', kind: 'text' };

/** Takes the part that an issue speaks of out. @returns where it stood */
function takeOut(value: JsonObject, issue: z.core.$ZodIssue): string[] {
  const paths = issue.code === 'unrecognized_keys' ? issue.keys.map((key) => [...issue.path, key]) : [issue.path];
  for (const path of paths) {
    const holder = valueAt(value, path.slice(0, -1)) as { [key: string]: Json | undefined } | Json[] | undefined;
    const key = path.at(-1);
    if (key === undefined || typeof holder !== 'object' || holder === null) continue;
    const standIn = ownOf(NEEDED, String(key));
    const needed = standIn !== undefined && (path.length === 1 || (path.length >= 3 && key === 'kind'));
    if (Array.isArray(holder)) holder.splice(Number(key), 1);
    else if (needed) holder[String(key)] = standIn;
    else if (path.length === 2 && path[0] === 'steps') holder[String(key)] = { kind: 'text' };
    else delete holder[String(key)];
    if (key === 'kind') delete holder.with;
  }
  return paths.map(pointer);
}

/** What is wrong with the form of a flow. */
export function shapeMistakes(error: z.core.$ZodError, value: unknown): Mistake[] {
  const of = (issue: z.core.$ZodIssue) =>
    mistakesOf(new z.core.$ZodRealError([issue]), value, [], {
      known: knownKeys(issue.path[0] === 'steps' ? stepSchema : flowSchema),
    });
  return firstMistakes(error.issues, of);
}

/** What is wrong with the meaning of a flow whose form is right. */
function* meaningOf(document: FlowDocument, surroundings: Surroundings): Generator<ExpressionMistake> {
  yield* checkInput(document, surroundings);
  // A flow that is not kept yet may name itself.
  const flows = surroundings.flows && [...surroundings.flows, document.name];
  yield* checkSteps(document.steps, [], new Set(), {
    ...{ ...surroundings, self: document.name },
    ...(flows && { flows }),
  });
  yield* checkExpressions(document);
}

type Steps = { [name: string]: StepDocument };

/** Steps of the flow, or of a loop inside of it. @param outside names that are taken further out */
function* checkSteps(
  steps: Steps,
  at: PropertyKey[],
  outside: ReadonlySet<string>,
  surroundings: Surroundings,
): Generator<Mistake> {
  for (const [name, step] of Object.entries(steps)) {
    const here = [...at, 'steps', name];
    if (RESERVED_NAMES.includes(name))
      yield {
        at: pointer(here),
        message: `A step may not be named "${name}"`,
        hint: 'The name is reserved for a branch.',
      };
    if (outside.has(name))
      yield {
        at: pointer(here),
        message: `A step "${name}" already exists outside of this loop`,
        hint: 'Rename one of them.',
      };
    yield* checkStep(step, steps, here, outside, surroundings);
  }
  const { cycle } = graphOf(steps);
  if (cycle) yield cycleMistake(cycle, at);
}

function checkInput(document: FlowDocument, surroundings: Surroundings): Mistake[] {
  if (!document.input) return [];
  if (document.input.type !== 'object')
    return [
      {
        at: '/input/type',
        message: 'The input of a flow must be an object',
        hint: 'Write "type: object" and list the inputs under "properties".',
      },
    ];
  const fault = schemaFault(document.input);
  if (fault) return [{ at: '/input', message: `The input is not a valid JSON Schema: ${fault}` }];
  return lookupsOf(document).flatMap(({ at, lookup }) => checkLookup(document, at, lookup, surroundings));
}

/** The source of an input's values: its form, what it names, and the other inputs that it depends on. */
function checkLookup(document: FlowDocument, at: PropertyKey[], lookup: Json, surroundings: Surroundings): Mistake[] {
  const { error, data } = lookupSchema.safeParse(lookup);
  if (error) return mistakesOf(error, lookup, at, { awaiting: false, known: lookupSchema });
  const inputs = Object.keys(isObject(document.input?.properties) ? document.input.properties : {});
  const unknown = [...(data.with ?? []).entries()].filter(([, name]) => !inputs.includes(name));
  return [
    ...checkReferences(
      lookupReferences({ input: { properties: { one: { [LOOKUP_KEYWORD]: lookup } } } }),
      lookup,
      at,
      surroundings,
    ),
    ...unknown.map(([index, name]) => ({
      at: pointer([...at, 'with', index]),
      message: `There is no input "${name}"`,
      hint: didYouMean(name, inputs),
    })),
  ];
}

const cycleMistake = (cycle: string[], at: PropertyKey[]): Mistake => ({
  at: pointer([...at, 'steps', cycle[0]!, 'after']),
  message: `The steps form a cycle: ${[...cycle, cycle[0]].join(' → ')}`,
  hint: 'Remove one of these links from "after".',
});

function* checkStep(
  step: StepDocument,
  steps: Steps,
  at: PropertyKey[],
  outside: ReadonlySet<string>,
  surroundings: Surroundings,
): Generator<Mistake> {
  for (const [index, text] of (step.after ?? []).entries())
    yield* checkLink(text, pointer([...at, 'after', index]), steps);
  const kind = stepKind(step.kind);
  if (!kind) {
    yield {
      at: pointer([...at, 'kind']),
      message: `There is no step kind "${step.kind}"`,
      hint: didYouMean(step.kind, KIND_NAMES),
    };
    return;
  }
  const given = step.with ?? {};
  const inside = [...at, 'with'];
  const parsed = kind.config.safeParse(given);
  const wrong = parsed.success ? [] : mistakesOf(parsed.error, given, inside, { awaiting: true, known: kind.config });
  yield* wrong;
  const body = wrong.length === 0 ? kind.body?.(given) : null;
  if (body) yield* checkSteps(body.steps, inside, new Set([...outside, ...Object.keys(steps)]), surroundings);
  const unknown = checkReferences(kind.references(withoutOffRows(given)), given, inside, surroundings);
  yield* unknown;
  if (wrong.length > 0 || unknown.length > 0) return;
  for (const mistake of kind.mistakes?.(given, surroundings) ?? [])
    yield { ...mistake, at: `${pointer(inside)}${mistake.at}` };
}

/** A configuration without the rows of its toolbox that are off: what they name may be gone. */
const withoutOffRows = (config: JsonObject): JsonObject =>
  Array.isArray(config.toolbox)
    ? { ...config, toolbox: config.toolbox.filter((row) => !isObject(row) || row.off !== true) }
    : config;

function checkLink(text: string, at: string, steps: Steps): Mistake[] {
  const { from, branch } = readLink(text);
  const step = steps[from];
  if (!step || !Object.hasOwn(steps, from))
    return [{ at, message: `"after" refers to a missing step "${from}"`, hint: didYouMean(from, Object.keys(steps)) }];
  if (branch === null) return [];
  const branches = (stepKind(step.kind)?.branches(step.with ?? {}) ?? []).map((one) => one.name);
  if (step.on_error === 'branch') branches.push('error');
  if (branches.includes(branch)) return [];
  const hint = branch === 'error' ? `Add "on_error: branch" to step "${from}".` : didYouMean(branch, branches);
  return [{ at, message: `Step "${from}" has no branch "${branch}"`, hint }];
}
