import { attribute, type ErrorRecord, pointerParts, type RunHead, type Span } from '@pindro/core';
import { FAILED, isMarked, type MarkKind, markOf } from './run-flags.js';

/** Of one run so much text is looked through later, in characters. */
const LONGEST = 6_000;
/** Maximum number of counted calls of a run. */
const MOST_CALLS = 2000;

const REFUSALS = ['arguments_refused', 'argument_governed', 'input_refused'];

/** The argument because of which a call was refused: the first part of where its mistake stands. */
export const refusedArgument = ({ code, at = '' }: Pick<ErrorRecord, 'code' | 'at'>): string | null =>
  REFUSALS.includes(code) ? String(pointerParts(at)[0] ?? '') || null : null;

/** Summary of a run in progress: flags, tokens and cost. */
export class RunSums {
  readonly marks = new Set<string>();
  /** Calls of its own: what was called, how long that took, and how it came out. */
  readonly calls: { what: string; took: number; failed: boolean; tokens: number; cost: number }[] = [];
  /** Masked text of inputs and outputs of the run, its steps and calls. */
  text = '';
  tokens = 0;
  cost = 0;
  /** The argument because of which the call that it answers was refused. */
  refused: string | null = null;

  constructor(readonly head?: RunHead) {
    if (!head) return;
    if (isMarked(head.entry)) this.marks.add(markOf('entry', head.entry));
    // One that was made here is found by the moment in it.
    if (head.parentSpan !== null && head.parentRun === null) this.marks.add(markOf('trace', head.traceId));
    this.#say(head.input);
  }

  take({ work, attributes, error, run, start, end, input, output }: Span): void {
    if (error) this.marks.add(FAILED);
    if (error && work === 'run' && this.head?.id === run) this.refused = refusedArgument(error);
    if (work !== 'run' && this.head?.id === run) for (const part of [input, output, error?.message]) this.#say(part);
    // Names that somebody made up are no tools.
    if (error?.code === 'tool_unknown') return;
    if (work === 'run' && this.head?.id === run && this.head.through)
      this.marks.add(markOf('tool', this.head.through.tool));
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

  /** The texts and numbers of a value, with spaces between, up to the longest. */
  #say(value: unknown): void {
    if (this.text.length >= LONGEST) return;
    if (typeof value === 'string') this.text += `${value.slice(0, LONGEST - this.text.length)} `;
    else if (typeof value === 'number') this.text += `${value} `;
    else if (typeof value === 'object' && value !== null)
      for (const item of Array.isArray(value) ? value : Object.values(value)) {
        if (this.text.length >= LONGEST) return;
        this.#say(item);
      }
  }
}
