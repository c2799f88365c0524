import { countMistakes, type Mistake, PindroError } from '../errors.js';
import { findUnsafe, isObject, type Json, pointer } from '../json.js';
import type { ToolDescription } from '../ports.js';
import { RESERVED_NAMES, type StepDocument, stepSchema } from '../steps/document.js';
import type { References } from '../steps/kind.js';
import { KIND_NAMES, stepKind } from '../steps/registry.js';
import { didYouMean } from '../suggest.js';
import { schemaFault } from '../tools/schema.js';
import { type FlowDocument, flowSchema, MAX_STEPS } from './document.js';
import { checkExpressions } from './expressions.js';
import { graphOf, readLink } from './graph.js';
import { knownKeys, mistakesOf } from './shape.js';
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

/** Checks a flow written as YAML or JSON text, or given as a value, and locates every mistake. */
export function checkFlow(written: string | Json, around: Surroundings = {}): CheckResult {
  const large = typeof written === 'string' ? tooLong(written) : undefined;
  if (large) return { document: null, mistakes: [large], name: '?' };
  const source = typeof written === 'string' ? readSource(written) : sourceOf(written);
  const mistakes = [...source.mistakes];
  const name = isObject(source.value) && typeof source.value.name === 'string' ? source.value.name : '?';
  if (mistakes.length === 0) mistakes.push(...checkValue(source, around));
  if (mistakes.length > 0) return { document: null, mistakes, name };
  return { document: flowSchema.parse(source.value), mistakes: [] };
}

/** A longer text is not even read: reading it would take longer than anybody waits. */
const LONGEST = 2 * 1024 * 1024;
function tooLong(text: string): Mistake | undefined {
  if (text.length <= LONGEST) return undefined;
  const size = (text.length / 1024 / 1024).toFixed(1);
  return {
    at: '',
    message: `A flow document holds at most ${LONGEST / 1024 / 1024} MiB, not ${size}`,
    hint: 'Put data into a table, and parts of the flow into flows of their own.',
  };
}

/** The checked document. @throws flow_invalid with every mistake */
export function requireFlow(written: string | Json, around: Surroundings = {}): FlowDocument {
  const checked = checkFlow(written, around);
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

function checkValue(source: Source, around: Surroundings): Mistake[] {
  const { value, locate } = source;
  if (!isObject(value))
    return [
      {
        at: '',
        message: 'A flow is a document with "format", "name" and "steps"',
        hint: 'Begin with "format: pindro/flow@1".',
      },
    ];
  const many = isObject(value.steps) ? Object.keys(value.steps).length : 0;
  if (many > MAX_STEPS)
    return [
      locate({
        at: '/steps',
        message: `A flow holds at most ${MAX_STEPS} steps, not ${many}`,
        hint: 'Put parts of it into flows of their own and call them with a step of kind "flow".',
      }),
    ];
  const unsafe = findUnsafe(value);
  if (unsafe) return [locate({ at: unsafe.at, message: `The value ${unsafe.why}` })];
  const parsed = flowSchema.safeParse(value);
  if (!parsed.success)
    return parsed.error.issues
      .flatMap((issue) =>
        mistakesOf({ issues: [issue] } as never, value, [], {
          known: knownKeys(issue.path[0] === 'steps' ? stepSchema : flowSchema),
        }),
      )
      .map((mistake) => locate(mistake));

  const document = parsed.data;
  const mistakes = [...checkInput(document), ...checkSteps(document.steps, [], new Set(), around)];
  return [
    ...mistakes.map((mistake) => locate(mistake)),
    ...checkExpressions(document).map(({ expression, ...mistake }) => locate(mistake, expression)),
  ];
}

type Steps = { [name: string]: StepDocument };

/** Steps of the flow, or of a loop inside of it. @param outside names that are taken further out */
function checkSteps(steps: Steps, at: PropertyKey[], outside: ReadonlySet<string>, around: Surroundings): Mistake[] {
  const mistakes: Mistake[] = [];
  for (const [name, step] of Object.entries(steps)) {
    const here = [...at, 'steps', name];
    if (RESERVED_NAMES.includes(name))
      mistakes.push({
        at: pointer(here),
        message: `A step may not be named "${name}"`,
        hint: 'The word means a branch.',
      });
    if (outside.has(name))
      mistakes.push({
        at: pointer(here),
        message: `There is a step "${name}" outside of this loop already`,
        hint: 'Give one of them another name.',
      });
    mistakes.push(...checkStep(step, steps, here, outside, around));
  }
  const { cycle } = graphOf(steps);
  if (cycle) mistakes.push(cycleMistake(cycle, at));
  return mistakes;
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

function checkStep(
  step: StepDocument,
  steps: Steps,
  at: PropertyKey[],
  outside: ReadonlySet<string>,
  around: Surroundings,
): Mistake[] {
  const links = (step.after ?? []).flatMap((text, index) => checkLink(text, pointer([...at, 'after', index]), steps));
  const kind = stepKind(step.kind);
  if (!kind)
    return [
      ...links,
      {
        at: pointer([...at, 'kind']),
        message: `There is no step kind "${step.kind}"`,
        hint: didYouMean(step.kind, KIND_NAMES),
      },
    ];
  const given = step.with ?? {};
  const parsed = kind.config.safeParse(given);
  const config = parsed.success
    ? []
    : mistakesOf(parsed.error, given, [...at, 'with'], { awaiting: true, known: knownKeys(kind.config) });
  const body = parsed.success || config.length === 0 ? kind.body?.(given) : null;
  const inside = body
    ? checkSteps(body.steps, [...at, 'with'], new Set([...outside, ...Object.keys(steps)]), around)
    : [];
  return [...links, ...config, ...inside, ...checkReferences(kind.references(given), given, [...at, 'with'], around)];
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

function checkReferences(references: References, config: Json, at: PropertyKey[], around: Surroundings): Mistake[] {
  return Object.entries(references).flatMap(([sort, names]: [string, string[]]) => {
    const known =
      sort === 'servers'
        ? around.servers && Object.keys(around.servers)
        : around[sort as Exclude<keyof References, 'servers'>];
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
