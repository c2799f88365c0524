import type { ASTNode } from '@marcbachmann/cel-js';

/*
 * JSON knows one sort of number; CEL two, which its library does not let meet in the branches of a condition, in lists
 * that are compared or put together, and as an index. Where nothing but that is in the way, the places where they meet are
 * read as of any type: what is done with them then goes by the values.
 */

type Span = { start: number; end: number };

const TYPE = /\b(?:u?int|double|string|bool|bytes|map|dyn|Shape\d+|google\.\S+)\b/g;

/** Whether an error of types speaks of numbers alone. */
export function speaksOfNumbersAlone(error: Error | undefined): boolean {
  const said = (error as { summary?: string } | undefined)?.summary ?? error?.message ?? '';
  const types = new Set(said.match(TYPE));
  return types.has('double') && [...types].every((type) => type === 'int' || type === 'double');
}

/** The expression with the places where numbers meet read as of any type. */
export function withLooseNumbers(expression: string, ast: ASTNode): string {
  const spans: Span[] = [];
  visit(ast, (node) => {
    for (const met of meeting(node)) if (typeof met.start === 'number' && met.end > met.start) spans.push(met);
  });
  const opens = new Map<number, number>();
  const closes = new Map<number, number>();
  for (const { start, end } of new Map(spans.map((span) => [`${span.start}-${span.end}`, span])).values()) {
    opens.set(start, (opens.get(start) ?? 0) + 1);
    closes.set(end, (closes.get(end) ?? 0) + 1);
  }
  let text = '';
  for (let at = 0; at <= expression.length; at++)
    text += `${')'.repeat(closes.get(at) ?? 0)}${'dyn('.repeat(opens.get(at) ?? 0)}${expression[at] ?? ''}`;
  return text;
}

/** The parts of a node that have to be of one type. */
function meeting({ op, args }: ASTNode): Span[] {
  const all = args as unknown as Span[];
  switch (op as string) {
    case '?:':
      return [all[1]!, all[2]!];
    case 'in':
    case '==':
    case '!=':
    case '+':
      return [all[0]!, all[1]!];
    case '[]':
      return [all[1]!];
    case 'rcall': {
      const [name, , given] = args as unknown as [string, unknown, Span[]];
      return name === 'orValue' || name === 'or' ? given : [];
    }
    default:
      return [];
  }
}

function visit(node: unknown, see: (node: ASTNode) => void): void {
  if (Array.isArray(node)) for (const item of node) visit(item, see);
  else if (typeof node === 'object' && node !== null && 'op' in node) {
    see(node as ASTNode);
    visit((node as ASTNode).args, see);
  }
}
