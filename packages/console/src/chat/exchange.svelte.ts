import type { Outcome, ProblemDetails } from '@pindro/contract/light';
import type { LiveEvent, MadeThing } from '@pindro/core/browser';

export interface CallLine {
  id: string;
  tool: string;
  from: string;
  arguments: unknown;
  state: 'running' | 'done' | 'failed';
  result: string;
  run: string | null;
  begun: number;
  /** How long it took, in milliseconds, once it is known. */
  took: number | null;
  /** What the call left behind, each with where to see it. */
  made: MadeThing[];
}

/** One message and what came of it. */
export class Exchange {
  calls = $state<CallLine[][]>([]);
  answer = $state('');
  outcome = $state.raw<Outcome | null>(null);
  problem = $state.raw<ProblemDetails | null>(null);
  /** The run, as soon as it is known, so that it can be stopped. */
  run = $state<string | null>(null);
  begun = Date.now();
  /** How far a tool says it is. */
  #progress = $state('');

  constructor(readonly message: string) {}

  get all(): CallLine[] {
    return this.calls.flat();
  }
  /** Whether the run waits for somebody; it resumes automatically after an answer. */
  get waits(): boolean {
    return this.outcome?.state === 'waiting';
  }
  get isOver(): boolean {
    return (this.outcome !== null && !this.waits) || this.problem !== null;
  }
  /** What the run currently waits for. */
  get doing(): string {
    const open = this.all.filter((call) => call.state === 'running');
    const calling = open.map((call) => call.tool.replaceAll('_', ' ')).join(', ');
    if (open.length > 0) return `calling ${calling}${this.#progress && `: ${this.#progress}`}`;
    if (this.#progress) return this.#progress;
    return this.all.length > 0 ? 'reading the result' : 'thinking';
  }

  take(run: string, live: LiveEvent): void {
    this.run ??= run;
    if (live.kind === 'text') {
      this.answer += live.text;
      this.#progress = '';
    }
    if (live.kind === 'progress')
      this.#progress = live.message || `${live.progress}${live.total === null ? '' : ` of ${live.total}`}`;
    if (live.kind === 'said') this.#progress = live.text;
    if (live.kind === 'called') this.#progress = '';
    if (live.kind === 'call') this.#begin(live);
    if (live.kind === 'called') {
      const line = this.all.findLast((call) => call.id === live.id);
      if (line)
        Object.assign(line, {
          ...{ state: live.failed ? 'failed' : 'done', result: live.text, run: live.run },
          took: Date.now() - line.begun,
        });
    }
  }

  /** Calls that run side by side stand together; what is said between two rounds parts them. */
  #begin(live: Extract<LiveEvent, { kind: 'call' }>): void {
    const line: CallLine = {
      ...{ id: live.id, tool: live.tool, from: live.label, arguments: live.arguments },
      ...{ state: 'running' as const, result: '', run: null, begun: Date.now(), took: null, made: [] },
    };
    const last = this.calls.at(-1);
    if (last?.some((call) => call.state === 'running')) last.push(line);
    else this.calls.push([line]);
    // What was said before a call was on the way to it.
    this.answer = '';
  }
}
