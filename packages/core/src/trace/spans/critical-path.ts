import type { Span } from './span.js';
import { TraceTree } from './tree.js';

/**
 * Returns the critical path of a run: from its end back to its start, among parallel work the part that ended last.
 * @returns by span the milliseconds of the path spent in the span itself
 */
export function criticalPath(spans: readonly Span[]): Map<string, number> {
  const tree = new TraceTree(spans);
  const endOf = ({ start, end }: Span) => Math.max(start, end ?? start);
  const took = (span: Span) => endOf(span) - span.start;
  const root = [...tree.roots].sort((a, b) => took(b) - took(a))[0];
  const path = new Map<string, number>();
  const left = root ? [{ span: root, until: endOf(root) }] : [];
  for (let next = left.pop(); next; next = left.pop()) {
    const { span, until } = next;
    if (path.has(span.spanId)) continue;
    let at = until;
    let own = 0;
    for (const child of [...tree.children(span)].sort((a, b) => endOf(b) - endOf(a))) {
      // Work that ended earlier or started afterwards did not delay anything. Clocks may differ slightly.
      if (child.start >= at || endOf(child) > at + 1 || took(child) === 0) continue;
      own += Math.max(0, at - endOf(child));
      left.push({ span: child, until: Math.min(at, endOf(child)) });
      at = child.start;
    }
    path.set(span.spanId, own + Math.max(0, at - span.start));
  }
  return path;
}
