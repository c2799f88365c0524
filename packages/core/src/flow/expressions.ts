import type { ASTNode, Environment } from '@marcbachmann/cel-js';
import type { Mistake } from '../errors/errors.js';
import { OverBudget, withinBudget } from '../expression/budget.js';
import { cutTemplate, readsVariable, templateTexts } from '../expression/cut.js';
import { checkMixed } from '../expression/environment.js';
import { summary } from '../expression/plain-words.js';
import { type CelType, celTypeOf, typedEnvironment } from '../expression/types.js';
import { isObject, type Json, type JsonObject, pointer } from '../json/json.js';
import { A_TYPE } from '../json/type-names.js';
import type { StepDocument } from '../steps/document.js';
import type { StepKind } from '../steps/kind.js';
import { stepKind } from '../steps/registry.js';
import { didYouMean } from '../text/suggest.js';
import { type FlowDocument, inputSchema } from './document.js';
import { comesAfter, type Graph, graphOf } from './graph.js';

export interface ExpressionMistake extends Mistake {
  expression?: string;
}

type Types = Record<string, CelType>;
type Steps = { [name: string]: StepDocument };

/** What expressions of a flow may see, by type. */
export function scopeTypes(document: FlowDocument): Types {
  const input = celTypeOf(inputSchema(document));
  return {
    input: typeof input === 'string' ? 'map<string, dyn>' : input,
    steps: stepTypes(document.steps),
    caller: 'map<string, dyn>',
    session: { id: 'string', client: 'string', endpoint: 'string' },
    run: { id: 'string', flow: 'string', stage: 'string' },
    clock: { now: 'google.protobuf.Timestamp', today: 'string', zone: 'string' },
  };
}

function stepTypes(steps: Steps): Types {
  return Object.fromEntries(
    Object.entries(steps).map(([name, step]) => {
      const output = stepKind(step.kind)?.output(step.with ?? {}) ?? {};
      const failure: Types =
        step.on_error && step.on_error !== 'stop' ? { error: { code: 'string', message: 'string' } } : {};
      return [name, { ...output, ...failure }];
    }),
  );
}

/** Steps and a result that see the same. */
interface Place {
  types: Types;
  environment: Environment;
  steps: Steps;
  graph: Graph;
  checks: TypeChecks;
  /** Whether a step outside of the loop that this is inside of has settled by then. */
  outside(name: string): boolean;
}

/** Holds every expression of a flow against its declared inputs and the outputs of the steps before it. */
export function* checkExpressions(document: FlowDocument): Generator<ExpressionMistake> {
  const types = scopeTypes(document);
  yield* checkPlace(document, [], { types, outside: () => false, checks: new TypeChecks() });
}

function* checkPlace(
  { steps, result }: { steps: Steps; result?: Json | undefined },
  at: PropertyKey[],
  given: Pick<Place, 'types' | 'outside' | 'checks'>,
): Generator<ExpressionMistake> {
  const place: Place = { ...given, environment: typedEnvironment(given.types), steps, graph: graphOf(steps) };
  for (const [name, step] of Object.entries(steps)) yield* checkStepTexts(name, step, at, place);
  if (result !== undefined) yield* checkTexts(result, [...at, 'result'], place, () => true);
}

function* checkStepTexts(
  name: string,
  step: StepDocument,
  at: PropertyKey[],
  place: Place,
): Generator<ExpressionMistake> {
  const given = step.with ?? {};
  const kind = stepKind(step.kind);
  const inner = kind?.body?.(given);
  const reached = (other: string) => comesAfter(place.graph, name, other);
  // Plain text, such as the code of a script, is not looked into.
  const own = Object.fromEntries(
    Object.entries(given).filter(([key]) => !(inner && BODY_PARTS.includes(key)) && !(kind?.plain ?? []).includes(key)),
  );
  const { reads = '', parts = [], type = () => 'map<string, dyn>' } = kind?.late ?? {};
  const late = Object.keys(own).filter((key) => parts.includes(key) && readsVariable(own[key], reads));
  const early = Object.fromEntries(Object.entries(own).filter(([key]) => !late.includes(key)));
  yield* checkTexts(early, [...at, 'steps', name, 'with'], place, reached);
  if (late.length > 0) {
    const types: Types = { ...place.types, [reads]: type(given) };
    const seeing: Place = { ...place, types, environment: typedEnvironment(types) };
    for (const key of late) yield* checkTexts(own[key]!, [...at, 'steps', name, 'with', key], seeing, reached);
  }
  if (kind) yield* misfits(kind, given, own, [...at, 'steps', name, 'with'], place);
  if (!inner) return;
  const types: Types = {
    ...place.types,
    steps: { ...(place.types.steps as Types), ...stepTypes(inner.steps) },
    item: 'dyn',
    index: 'int',
  };
  const outside = (other: string) => reached(other) || place.outside(other);
  yield* checkPlace(inner, [...at, 'steps', name, 'with'], { types, outside, checks: place.checks });
}
/** A value of each type of an expression, to hold it against what a kind takes. */
const SAMPLES: [RegExp, Json][] = [
  [/^string$|Timestamp$/, 'x'],
  [/^(?:int|uint|double)$/, 1],
  [/^bool$/, true],
  [/^list\b/, []],
  [/^(?:map\b|Shape\d+$)/, {}],
];
const sampleOf = (type: string): Json | undefined => SAMPLES.find(([pattern]) => pattern.test(type))?.[1];
const KIND_OF_SAMPLE = (sample: Json) => A_TYPE[Array.isArray(sample) ? 'array' : typeof sample];

/** Expressions whose type is known and which stand where the kind takes another one. */
function* misfits(
  kind: StepKind,
  given: JsonObject,
  own: JsonObject,
  at: PropertyKey[],
  place: Place,
): Generator<ExpressionMistake> {
  const known: { path: PropertyKey[]; expression: string; sample: Json }[] = [];
  for (const { text, parts } of templateTexts(own, [])) {
    const expression = loneExpression(text);
    if (expression === null) continue;
    const checked = place.checks.check(place.environment, expression);
    const sample = checked.valid ? sampleOf(String(checked.type ?? 'dyn')) : undefined;
    if (sample !== undefined) known.push({ path: parts, expression, sample });
  }
  if (known.length === 0) return;
  for (const { path, expression, sample } of known)
    if (kind.conditions?.includes(String(path[0])) && typeof sample !== 'boolean')
      yield {
        at: pointer([...at, ...path]),
        expression,
        message: `"${expression}" is ${KIND_OF_SAMPLE(sample)}, and true or false is required`,
      };
  const filled = structuredClone(given);
  for (const { path, sample } of known)
    if (!kind.raw?.includes(String(path[0])) && !kind.late?.parts.includes(String(path[0])))
      setAt(filled, path, sample);
  const parsed = kind.config.safeParse(filled);
  if (parsed.success) return;
  for (const issue of parsed.error.issues) {
    const misfit = known.find(({ path }) => path.join('/') === issue.path.map(String).join('/'));
    if (misfit && isOfType(issue))
      yield {
        at: pointer([...at, ...misfit.path]),
        expression: misfit.expression,
        message: `"${misfit.expression}" is ${KIND_OF_SAMPLE(misfit.sample)}, and ${wantedOf(issue)} is required`,
      };
  }
}

type Issue = import('zod').core.$ZodIssue;
/** Whether an issue is about the type of the value itself. */
const isOfType = (issue: Issue): boolean =>
  issue.code === 'invalid_type' ||
  (issue.code === 'invalid_union' &&
    issue.errors.length > 0 &&
    issue.errors.every((errors) => errors.some((one) => one.code === 'invalid_type' && one.path.length === 0)));

const TYPE_WORDS: Record<string, string> = {
  ...A_TYPE,
  ...{ int: 'an integer', record: 'an object' },
};
const wantedOf = (issue: Issue): string => {
  if (issue.code === 'invalid_type') return TYPE_WORDS[issue.expected] ?? issue.expected;
  if (issue.code !== 'invalid_union') return 'something else';
  const all = issue.errors.flatMap((errors) => errors.filter((one) => one.code === 'invalid_type').map(wantedOf));
  return [...new Set(all)].join(' or ');
};

/** The expression that a text is and nothing else, so that its value keeps its type. */
function loneExpression(text: string): string | null {
  try {
    const pieces = cutTemplate(text);
    const [only] = pieces;
    return pieces.length === 1 && only && 'expression' in only ? only.expression : null;
  } catch {
    return null;
  }
}

function setAt(value: JsonObject, path: PropertyKey[], sample: Json): void {
  let holder: JsonObject = value;
  for (const part of path.slice(0, -1)) holder = holder[String(part)] as JsonObject;
  holder[String(path.at(-1))] = sample;
}

const BODY_PARTS = ['steps', 'result', 'flow', 'input'];

function* checkTexts(
  value: Json,
  parts: PropertyKey[],
  place: Place,
  reached: (name: string) => boolean,
): Generator<ExpressionMistake> {
  const before = (name: string) => (Object.hasOwn(place.steps, name) ? reached(name) : place.outside(name));
  for (const { text, parts: here } of templateTexts(value, parts)) {
    const at = pointer(here);
    try {
      for (const piece of cutTemplate(text))
        if ('expression' in piece) yield* checkOne(piece.expression, at, place, before);
    } catch (error) {
      yield { at, message: (error as Error).message, hint: 'Close the expression, or write $${ for a literal ${.' };
    }
  }
}

function checkOne(
  expression: string,
  at: string,
  { environment, types, checks }: Place,
  before: (name: string) => boolean,
): ExpressionMistake[] {
  if (expression === '')
    return [
      {
        at,
        message: 'The expression is empty',
        hint: 'Add an expression between "${" and "}", for example input.name.',
      },
    ];
  let ast: ASTNode;
  try {
    ast = environment.parse(expression).ast;
  } catch (error) {
    return [{ at, expression, message: `"${expression}" cannot be parsed: ${summary(error)}` }];
  }
  const known = types.steps as Record<string, CelType>;
  const early = [...new Set(stepsRead(ast))].find((name) => Object.hasOwn(known, name) && !before(name));
  if (early)
    return [
      {
        at,
        expression,
        message: `"${expression}" reads step "${early}", which does not come before this step`,
        hint: `Add "${early}" to "after".`,
      },
    ];
  const result = checks.check(environment, expression);
  if (result.valid) return [];
  return [{ at, expression, ...explain(expression, result.error!, ast, types) }];
}

/** What all checks of types in one document may take that could take long, in milliseconds. */
const CHECKS = 50;

interface Checked {
  valid: boolean;
  type?: unknown;
  error?: Error;
}

/**
 * Types can double with each `cel.bind`, so that checks have a budget together. What takes more is left to when it is run,
 * which has a budget of its own.
 */
class TypeChecks {
  #left = CHECKS;
  readonly #known = new WeakMap<Environment, Map<string, Checked>>();

  check(environment: Environment, expression: string): Checked {
    let known = this.#known.get(environment);
    if (!known) this.#known.set(environment, (known = new Map()));
    let checked = known.get(expression);
    if (!checked) known.set(expression, (checked = this.#check(environment, expression)));
    return checked;
  }

  #check(environment: Environment, expression: string): Checked {
    if (!/\b(bind|map|filter|all|exists|exists_one)\b/.test(expression)) return checkMixed(environment, expression);
    if (this.#left <= 0) return { valid: true };
    try {
      return withinBudget(() => checkMixed(environment, expression), { guarded: true });
    } catch (error) {
      return error instanceof OverBudget ? { valid: true } : { valid: false, error: error as Error };
    } finally {
      this.#left--;
    }
  }
}

function explain(
  expression: string,
  error: Error,
  ast: ASTNode,
  types: Record<string, CelType>,
): Pick<Mistake, 'message' | 'hint'> {
  const code = (error as { code?: string }).code;
  const name = /(?:No such key|Unknown variable): (.+)$/.exec((error as { summary?: string }).summary ?? '')?.[1];
  if (code === 'unknown_variable' && name)
    return {
      message: `"${expression}" uses "${name}", which is not defined here`,
      hint: didYouMean(name, Object.keys(types)),
    };
  if (code === 'no_such_key' && name) {
    const path = pathBefore(ast, name);
    const type = path?.reduce<CelType | undefined>(
      (here, part) => (isObject(here as Json) ? (here as Record<string, CelType>)[part] : undefined),
      types,
    );
    const known = type && typeof type === 'object' ? Object.keys(type) : [];
    return {
      message: `"${expression}": ${path?.join('.') ?? 'it'} has no "${name}"`,
      hint: didYouMean(name, known),
    };
  }
  return { message: `"${expression}" has a type error: ${summary(error)}` };
}

/** The names of the steps that an expression reads. */
function stepsRead(node: unknown): string[] {
  const found: string[] = [];
  visit(node, (here) => {
    if (here.op === '.' || here.op === '.?') {
      const [of, name] = here.args;
      if (of.op === 'id' && of.args === 'steps') found.push(name);
    }
  });
  return found;
}

/** The dotted path in front of a property name, for example `["steps", "place"]`. */
function pathBefore(root: ASTNode, property: string): string[] | undefined {
  let found: string[] | undefined;
  visit(root, (node) => {
    if (!found && (node.op === '.' || node.op === '.?') && node.args[1] === property) found = dotted(node.args[0]);
  });
  return found;
}

function dotted(node: ASTNode): string[] | undefined {
  if (node.op === 'id') return [node.args];
  if (node.op !== '.' && node.op !== '.?') return undefined;
  const rest = dotted(node.args[0]);
  return rest && [...rest, node.args[1]];
}

function visit(node: unknown, see: (node: ASTNode) => void): void {
  if (Array.isArray(node)) for (const item of node) visit(item, see);
  else if (typeof node === 'object' && node !== null && 'op' in node) {
    see(node as ASTNode);
    visit((node as ASTNode).args, see);
  }
}
