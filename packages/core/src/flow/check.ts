import type { z } from 'zod';
import { countMistakes, type Mistake, PindroError } from '../errors.js';
import { findUnsafe, isObject, type Json, pointer } from '../json.js';
import type { ToolDescription } from '../ports.js';
import { RESERVED_NAMES, type StepDocument, stepSchema } from '../steps/document.js';
import type { References } from '../steps/kind.js';
import { KIND_NAMES, stepKind } from '../steps/registry.js';
import { didYouMean } from '../suggest.js';
import { schemaFault } from '../tools/schema.js';
import { type FlowDocument, flowSchema } from './document.js';
import { checkExpressions, type ExpressionMistake } from './expressions.js';
import { graphOf, readLink } from './graph.js';
import { tooLong, tooMuch } from './limits.js';
import { firstMistakes, knownKeys, mistakesOf } from './shape.js';
import { readSource, type Source, sourceOf } from './source.js';

/** What else the workspace holds, so that names of other things can be checked; what is left out is not checked. */
export interface Surroundings {
  flows?: string[];
  tables?: string[];
  endpoints?: string[];
  models?: string[];
  credentials?: string[];
  servers?: Record<string, ToolDescription[]>;
}

export type CheckResult =
  | { document: FlowDocument; mistakes: [] }
  | { document: null; mistakes: Mistake[]; name: string };

/** Checks a flow written as YAML or JSON text, or given as a value, and locates its mistakes, a hundred at most. */
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
      message: 'A flow is a document with "format", "name" and "steps"',
      hint: 'Begin with "format: pindro/flow@1".',
    };
  const unsafe = findUnsafe(value);
  return tooMuch(value) ?? (unsafe && { at: unsafe.at, message: `The value ${unsafe.why}` });
}

/** The checked document. @throws flow_invalid with every mistake */
export function requireFlow(written: string | Json, surroundings: Surroundings = {}): FlowDocument {
  const checked = checkFlow(written, surroundings);
  if (checked.document) return checked.document;
  throw flowInvalid(checked);
}

/** The refusal of a document, with every mistake. */
export function flowInvalid({ mistakes, ...rest }: CheckResult): PindroError {
  return new PindroError(
    'flow_invalid',
    { name: 'name' in rest ? String(rest.name) : '?', count: countMistakes(mistakes) },
    { mistakes, ...(mistakes[0] && { at: mistakes[0].at }) },
  );
}

function checkValue({ value, locate }: Source, surroundings: Surroundings): Mistake[] {
  const parsed = flowSchema.safeParse(value);
  if (!parsed.success) return shapeMistakes(parsed.error, value).map((mistake) => locate(mistake));
  const meaning = firstMistakes([parsed.data], (document) => meaningOf(document, surroundings));
  return meaning.map(({ expression, ...mistake }) => locate(mistake, expression));
}

/** What is wrong with the form of a flow. */
export function shapeMistakes(error: z.core.$ZodError, value: unknown): Mistake[] {
  const of = (issue: z.core.$ZodIssue) =>
    mistakesOf({ issues: [issue] } as never, value, [], {
      known: knownKeys(issue.path[0] === 'steps' ? stepSchema : flowSchema),
    });
  return firstMistakes(error.issues, of);
}

/** What is wrong with the meaning of a flow whose form is right. */
function* meaningOf(document: FlowDocument, surroundings: Surroundings): Generator<ExpressionMistake> {
  yield* checkInput(document);
  // A flow that is not kept yet may name itself.
  const flows = surroundings.flows && [...surroundings.flows, document.name];
  yield* checkSteps(document.steps, [], new Set(), { ...surroundings, ...(flows && { flows }) });
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
      yield { at: pointer(here), message: `A step may not be named "${name}"`, hint: 'The word means a branch.' };
    if (outside.has(name))
      yield {
        at: pointer(here),
        message: `There is a step "${name}" outside of this loop already`,
        hint: 'Give one of them another name.',
      };
    yield* checkStep(step, steps, here, outside, surroundings);
  }
  const { cycle } = graphOf(steps);
  if (cycle) yield cycleMistake(cycle, at);
}

function checkInput(document: FlowDocument): Mistake[] {
  if (!document.input) return [];
  if (document.input.type !== 'object')
    return [
      {
        at: '/input/type',
        message: 'The input of a flow is an object',
        hint: 'Write "type: object" and list the inputs under "properties".',
      },
    ];
  const fault = schemaFault(document.input);
  return fault ? [{ at: '/input', message: `The input is not a JSON Schema: ${fault}` }] : [];
}

const cycleMistake = (cycle: string[], at: PropertyKey[]): Mistake => ({
  at: pointer([...at, 'steps', cycle[0]!, 'after']),
  message: `The steps go round in a circle: ${[...cycle, cycle[0]].join(' → ')}`,
  hint: 'Take one of these links out of "after".',
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
  const wrong = parsed.success
    ? []
    : mistakesOf(parsed.error, given, inside, { awaiting: true, known: knownKeys(kind.config) });
  yield* wrong;
  const body = wrong.length === 0 ? kind.body?.(given) : null;
  if (body) yield* checkSteps(body.steps, inside, new Set([...outside, ...Object.keys(steps)]), surroundings);
  yield* checkReferences(kind.references(given), given, inside, surroundings);
}

function checkLink(text: string, at: string, steps: Steps): Mistake[] {
  const { from, branch } = readLink(text);
  const step = steps[from];
  if (!step || !Object.hasOwn(steps, from))
    return [{ at, message: `There is no step "${from}" to come after`, hint: didYouMean(from, Object.keys(steps)) }];
  if (branch === null) return [];
  const branches = (stepKind(step.kind)?.branches(step.with ?? {}) ?? []).map((one) => one.name);
  if (step.on_error === 'branch') branches.push('error');
  if (branches.includes(branch)) return [];
  const hint = branch === 'error' ? `Write "on_error: branch" at step "${from}".` : didYouMean(branch, branches);
  return [{ at, message: `Step "${from}" has no branch "${branch}"`, hint }];
}

const WORDS: Record<keyof References, string> = {
  flows: 'flow',
  tables: 'table',
  servers: 'tool server',
  endpoints: 'endpoint',
  models: 'model connection',
  credentials: 'credential',
};

function checkReferences(
  references: References,
  config: Json,
  at: PropertyKey[],
  surroundings: Surroundings,
): Mistake[] {
  return Object.entries(references).flatMap(([sort, names]: [string, string[]]) => {
    const known =
      sort === 'servers'
        ? surroundings.servers && Object.keys(surroundings.servers)
        : surroundings[sort as Exclude<keyof References, 'servers'>];
    if (!known) return [];
    return names
      .filter((name) => !known.includes(name))
      .map((name) => ({
        at: pointer([...at, ...(pathOf(config, name) ?? [])]),
        message: `There is no ${WORDS[sort as keyof References]} named "${name}"`,
        hint: didYouMean(name, known),
      }));
  });
}

/** Where a text stands in a value. */
function pathOf(value: Json, text: string): PropertyKey[] | undefined {
  if (value === text) return [];
  if (typeof value !== 'object' || value === null) return undefined;
  for (const [key, inner] of Object.entries(value)) {
    const path = pathOf(inner, text);
    if (path) return [key, ...path];
  }
  return undefined;
}
