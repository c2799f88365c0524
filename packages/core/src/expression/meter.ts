import type { ASTNode } from '@marcbachmann/cel-js';
import { bulk, spend } from './budget.js';
import { COMPARE, type Handle } from './equal.js';

type Evaluate = (evaluator: unknown, node: ASTNode, context: unknown) => unknown;
type Meta = { alternate?: ASTNode; macro?: { [part: string]: unknown } };
interface Comprehension {
  iterable: ASTNode;
  step: ASTNode;
}

/** Calls that are led to functions of ours: the library's own take more than linear time or space. */
const LED: Record<string, string> = { matches: 'like', join: 'joined' };
/** What makes, compares or looks through values that may be large. */
const LARGE = new Set(['+', '==', '!=', 'in', 'call', 'rcall']);

/** Facts from parsing an expression. */
export interface Metered {
  /** Whether it may do more work than its length says. */
  loops: boolean;
}

/** Makes an expression count the work it does, as the library has no place to look in. Done once, after it is read. */
export function meter(root: ASTNode): Metered {
  const metered: Metered = { loops: false };
  weigh(root, metered, new Set());
  return metered;
}

/** @returns how many nodes there are from here on */
function weigh(node: unknown, metered: Metered, seen: Set<object>): number {
  if (Array.isArray(node)) return node.reduce((sum: number, item) => sum + weigh(item, metered, seen), 0);
  if (typeof node !== 'object' || node === null || !('op' in node) || seen.has(node)) return 0;
  seen.add(node);
  const ast = node as ASTNode & { meta: Meta };
  if (ast.op === 'rcall') lead(ast);
  const { alternate, macro } = ast.meta;
  let weight = 1;
  if (alternate) weight += weigh(alternate, metered, seen);
  if (macro) {
    // `cel.bind` names a value; each use of it may double the result.
    if (macro.var !== undefined) metered.loops = true;
    for (const part of Object.values(macro)) weight += weigh(part, metered, seen);
  }
  if ((ast.op as string) === 'comprehension') {
    metered.loops = true;
    const { iterable, step } = ast.args as unknown as Comprehension;
    const inside = weigh(step, metered, seen);
    weight += inside + weigh(iterable, metered, seen);
    count(iterable, (items) => sizeOf(items) * inside);
  } else weight += weigh(ast.args, metered, seen);
  if (LARGE.has(ast.op)) count(ast, bulk);
  const compare = COMPARE[ast.op];
  if (compare) compareBy(ast, compare);
  return weight;
}

function lead(ast: ASTNode): void {
  const args = ast.args as unknown as unknown[];
  const to = LED[String(args[0])];
  if (to && Object.hasOwn(LED, String(args[0]))) args[0] = to;
}

function sizeOf(items: unknown): number {
  if (Array.isArray(items)) return items.length;
  if (items instanceof Map || items instanceof Set) return items.size;
  return typeof items === 'object' && items !== null ? Object.keys(items).length : 1;
}

/** The node compares by a function of ours. The library sets how it compares when it looks at the types. */
function compareBy(ast: ASTNode, compare: (library: Handle) => Handle): void {
  let handle: Handle | undefined;
  Object.defineProperty(ast, 'handle', {
    configurable: true,
    get: () => handle,
    set: (set: Handle) => {
      handle = compare(set);
    },
  });
}

const costs = new WeakMap<ASTNode, ((value: unknown) => number)[]>();

/** The node spends what its value costs. The library sets how a node is evaluated when it first is. */
function count(ast: ASTNode, cost: (value: unknown) => number): void {
  const known = costs.get(ast);
  if (known) return void known.push(cost);
  const own = [cost];
  costs.set(ast, own);
  let evaluate = (ast as unknown as { evaluate: Evaluate }).evaluate;
  const counted: Evaluate = (evaluator, node, context) => {
    const value = evaluate.call(ast, evaluator, node, context);
    for (const costOf of own) spend(1 + costOf(value));
    return value;
  };
  Object.defineProperty(ast, 'evaluate', {
    get: () => counted,
    set: (set: Evaluate) => {
      evaluate = set;
    },
  });
}
