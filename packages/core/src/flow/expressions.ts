import type { ASTNode, Environment } from '@marcbachmann/cel-js';
import type { Mistake } from '../errors.js';
import { cutTemplate, templateTexts } from '../expression/cut.js';
import { summary } from '../expression/template.js';
import { type CelType, celTypeOf, typedEnvironment } from '../expression/types.js';
import { isObject, type Json, pointer } from '../json.js';
import { stepKind } from '../steps/registry.js';
import { didYouMean } from '../suggest.js';
import { type FlowDocument, inputSchema } from './document.js';
import { ancestors, type Graph } from './graph.js';

export interface ExpressionMistake extends Mistake {
  expression?: string;
}

/** What expressions of a flow may see, by type. */
export function scopeTypes(
  document: FlowDocument,
): Record<'input' | 'steps' | 'caller' | 'session' | 'run' | 'clock', CelType> {
  const steps: Record<string, CelType> = {};
  for (const [name, step] of Object.entries(document.steps)) {
    const output = stepKind(step.kind)?.output(step.with ?? {}) ?? {};
    const failure: Record<string, CelType> =
      step.on_error && step.on_error !== 'stop' ? { error: { code: 'string', message: 'string' } } : {};
    steps[name] = { ...output, ...failure };
  }
  const input = celTypeOf(inputSchema(document));
  return {
    input: typeof input === 'string' ? 'map<string, dyn>' : input,
    steps,
    caller: 'map<string, dyn>',
    session: { id: 'string' },
    run: { id: 'string', flow: 'string', stage: 'string' },
    clock: { now: 'google.protobuf.Timestamp', today: 'string', zone: 'string' },
  };
}

/** Holds every expression of a flow against its declared inputs and the outputs of the steps before it. */
export function checkExpressions(document: FlowDocument, graph: Graph): ExpressionMistake[] {
  const types = scopeTypes(document);
  const environment = typedEnvironment(types);
  const places: { value: Json; parts: PropertyKey[]; before: Set<string> }[] = Object.entries(document.steps).map(
    ([name, step]) => ({
      value: step.with ?? {},
      parts: ['steps', name, 'with'],
      before: ancestors(graph, name),
    }),
  );
  if (document.result !== undefined)
    places.push({ value: document.result, parts: ['result'], before: new Set(Object.keys(document.steps)) });
  return places.flatMap(({ value, parts, before }) =>
    [...templateTexts(value, parts)].flatMap(({ text, parts }) => {
      const at = pointer(parts);
      try {
        return cutTemplate(text).flatMap((piece) =>
          'expression' in piece ? checkOne(piece.expression, at, environment, types, before) : [],
        );
      } catch (error) {
        return [
          { at, message: (error as Error).message, hint: 'Close the expression, or write $${ for a literal ${.' },
        ];
      }
    }),
  );
}

function checkOne(
  expression: string,
  at: string,
  environment: Environment,
  types: Record<string, CelType>,
  before: Set<string>,
): ExpressionMistake[] {
  if (expression === '')
    return [
      { at, message: 'The expression is empty', hint: 'Write something between "${" and "}", for example input.name.' },
    ];
  let ast: ASTNode;
  try {
    ast = environment.parse(expression).ast;
  } catch (error) {
    return [{ at, expression, message: `"${expression}" cannot be read: ${summary(error)}` }];
  }
  const known = types.steps as Record<string, CelType>;
  const early = [...new Set(stepsRead(ast))].find((name) => Object.hasOwn(known, name) && !before.has(name));
  if (early)
    return [
      {
        at,
        expression,
        message: `"${expression}" reads step "${early}", which does not come before this one`,
        hint: `Add "${early}" to "after".`,
      },
    ];
  const result = environment.check(expression);
  if (result.valid) return [];
  return [{ at, expression, ...explain(expression, result.error!, ast, types) }];
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
      message: `"${expression}" uses "${name}", which is not known here`,
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
      message: `"${expression}": there is no "${name}" in ${path?.join('.') ?? 'it'}`,
      hint: didYouMean(name, known),
    };
  }
  return { message: `"${expression}" does not fit together: ${summary(error)}` };
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
