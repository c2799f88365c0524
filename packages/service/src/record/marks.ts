import { attribute, type RunHead, type Span } from '@pindro/core';

/** What of a run is found again by one look: who took part in it, and what was found. */
export const MARKS = ['tool', 'server', 'model', 'entry', 'trace', 'finding'] as const;
export type MarkKind = (typeof MARKS)[number];
/** So many calls of one run are counted. */
const MOST_CALLS = 2000;
/** Something in the run failed, whether it was dealt with or not. */
export const FAILED = 'failed';
export const markOf = (kind: MarkKind, name: string): string => `${kind}:${name}`;

/** What a run comes to, while it goes on: its marks, and what its models read, wrote and cost. */
export class RunSums {
  readonly marks = new Set<string>();
  /** Calls of its own: what was called, how long that took, and how it came out. */
  readonly calls: { what: string; took: number; failed: boolean; tokens: number; cost: number }[] = [];
  tokens = 0;
  cost = 0;

  constructor(readonly head?: RunHead) {
    if (!head) return;
    this.marks.add(markOf('entry', head.entry));
    this.marks.add(markOf('trace', head.traceId));
    if (head.through) this.marks.add(markOf('tool', head.through.tool));
  }

  take({ work, attributes, error, run, start, end }: Span): void {
    if (error) this.marks.add(FAILED);
    const call = (what: string, tokens = 0) => {
      if (this.head?.id !== run || this.calls.length >= MOST_CALLS) return;
      this.calls.push({
        what,
        took: Math.max(0, (end ?? start) - start),
        failed: error !== undefined,
        tokens,
        cost: 0,
      });
    };
    if (work !== 'tool' && work !== 'model' && work !== 'agent' && work !== 'step') return;
    const named = (kind: MarkKind, name: unknown) => typeof name === 'string' && this.marks.add(markOf(kind, name));
    if (work === 'tool') {
      named('tool', attributes[attribute.tool]);
      named('tool', attributes[attribute.ownTool]);
      named('server', attributes[attribute.server]);
      call(`tool:${attributes[attribute.tool]}`);
      if (typeof attributes[attribute.server] === 'string') call(`server:${attributes[attribute.server]}`);
    }
    if (work === 'model') {
      named('model', attributes[attribute.model]);
      const tokens =
        (Number(attributes[attribute.inputTokens]) || 0) + (Number(attributes[attribute.outputTokens]) || 0);
      this.tokens += tokens;
      call(`model:${attributes[attribute.model]}`, tokens);
    }
    if (work === 'agent') this.cost += Number(attributes[attribute.cost]) || 0;
  }
}
