import {
  type CheckResult,
  checkFlow,
  compareFlows,
  type FlowComparison,
  type FlowDocument,
  type Json,
  letOthers,
  type Mistake,
  PindroError,
  type Surroundings,
} from '@pindro/core';
import { isLong, WorkThread } from '../platform/work-thread.js';
import { type DrawnDraft, drawDraft, type Written } from './drawing.js';
import type { flowWork, Skimmed } from './work.js';

/** Two texts of up to this many lines are compared in a few milliseconds. */
const FEW_LINES = 150;

interface Version {
  document: FlowDocument;
  text: string;
}

/** The first check of a process takes 100 ms, later ones 1 ms: it runs before the service listens. */
const FIRST_CHECK = `format: pindro/flow@1
name: first
input: { type: object, properties: { hut: { type: string } } }
steps:
  say: { kind: text, with: { text: "\${ input.hut }" } }
result: "\${ steps.say.text }"
`;
let isReady = false;
export function readyToCheck(): void {
  if (!isReady) checkFlow(FIRST_CHECK, {});
  isReady = true;
}

/** Checks and compares documents without keeping everybody else waiting. */
export class FlowChecker {
  readonly #thread = new WorkThread<typeof flowWork>(
    new URL('./work-thread.js', import.meta.url),
    (limit) => new PindroError('flow_too_large', { limit: `what can be processed in ${limit}` }),
  );

  async check(written: string | Json, surroundings: Surroundings): Promise<CheckResult & Written> {
    return isLong(written)
      ? unhurried(this.#thread.ask('check', written, mentionedIn(written, surroundings)))
      : checkFlow(written, surroundings);
  }

  /** Returns the mistakes of each of many texts. Runs in the thread, however short they are. */
  checkEach(texts: readonly string[], surroundings: Surroundings): Promise<Mistake[][]> {
    return this.#thread.ask('checkEach', texts, mentionedIn(texts.join('\n'), surroundings));
  }

  /** A draft that is to be kept. @param into the text that is there */
  async draw(written: string | Json, surroundings: Surroundings, into?: string): Promise<DrawnDraft> {
    return isLong(written) || isLong(into ?? '')
      ? unhurried(this.#thread.ask('draw', written, mentionedIn(written, surroundings), into))
      : drawDraft(written, surroundings, into);
  }

  /** What tells two versions apart. Finding the lines takes time with the square of their number. */
  async compare(before: Version, after: Version): Promise<FlowComparison> {
    const few = [before, after].every(({ text }) => !isLong(text) && text.split('\n').length <= FEW_LINES);
    return few ? compareFlows(before, after) : this.#thread.ask('compare', before, after);
  }

  /** A long document of any kind. */
  skim(text: string, most?: Readonly<Record<string, number>>): Promise<Skimmed> {
    return this.#thread.ask('skim', text, most);
  }

  close(): void {
    this.#thread.close();
  }
}

/** Lets others run once a long answer has been received: storing it takes as long again. */
async function unhurried<T>(answer: Promise<T>): Promise<T> {
  const received = await answer;
  await letOthers();
  return received;
}

/** Only tools that a document may refer to are passed to the thread, because tool lists may be long. */
function mentionedIn(written: string | Json, { servers, ...rest }: Surroundings): Surroundings {
  const text = typeof written === 'string' ? written : JSON.stringify(written);
  const known = Object.entries(servers ?? {}).map(([name, tools]) => [name, text.includes(name) ? tools : []]);
  return { ...rest, ...(servers && { servers: Object.fromEntries(known) }) };
}
