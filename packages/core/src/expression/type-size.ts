import type { ASTNode } from '@marcbachmann/cel-js';
import { spend } from './budget.js';

/** So large the type of a part may be, in parts: types of maps and names bound by `cel.bind` can double again and again. */
const LARGEST = 4000;

/**
 * Estimates how large the types are that a check of an expression goes through, and counts that as its work. Done before
 * the check, which cannot be counted.
 * @throws OverBudget
 */
export function countTypes(root: ASTNode): void {
  sizeOf(root, new Map());
}

type Names = ReadonlyMap<string, number>;
interface Parts {
  op: string;
  args: unknown;
  meta?: {
    macro?: { var?: string; val?: ASTNode; exp?: ASTNode };
    alternate?: { args: { iterVarName: string; iterable: ASTNode } };
  };
}

function sizeOf(node: unknown, names: Names): number {
  if (Array.isArray(node)) return node.reduce((sum: number, item) => sum + sizeOf(item, names), 0);
  if (typeof node !== 'object' || node === null || !('op' in node)) return 0;
  const size = Math.max(1, sizeOfNode(node as unknown as Parts, names));
  spend(size);
  if (size > LARGEST) spend(Number.POSITIVE_INFINITY);
  return size;
}

function sizeOfNode({ op, args, meta }: Parts, names: Names): number {
  const macro = meta?.macro;
  if (macro?.var !== undefined && macro.exp !== undefined)
    return sizeOf(macro.exp, new Map(names).set(macro.var, sizeOf(macro.val, names)));
  const loop = meta?.alternate?.args;
  if (loop) {
    const items = sizeOf(loop.iterable, names);
    const [, , inside] = args as [string, ASTNode, ASTNode[]];
    return 1 + items + sizeOf(inside.slice(1), new Map(names).set(loop.iterVarName, items));
  }
  if (op === 'id') return names.get(String(args)) ?? 1;
  if (op === 'map') {
    // All keys have one type, and all values.
    const entries = (args as [unknown, unknown][]).map(([key, value]) => [sizeOf(key, names), sizeOf(value, names)]);
    return 1 + Math.max(0, ...entries.map(([key = 0]) => key)) + Math.max(0, ...entries.map(([, value = 0]) => value));
  }
  if (op === 'list') return 1 + Math.max(0, ...(args as unknown[]).map((item) => sizeOf(item, names)));
  return 1 + sizeOf(args, names);
}
