import { parentPort, Worker } from 'node:worker_threads';
import { asPindroError, type ErrorRecord, type Json, type Mistake, PindroError } from '@pindro/core';

/** What one piece of work may take, in milliseconds of processor time and MB. */
const LIMITS = { patience: 20_000, memory: 512 };
/** How often it is looked, in milliseconds. */
const LOOK_EVERY = 500;
/** Maximum queue length, and the retry delay in seconds. */
const MOST_WAITING = 50;
const COME_BACK = 5;
/** An idle thread ends after this many milliseconds. */
const IDLE = 20_000;

/** A document longer than this is worth a thread, in characters: reading one with the place of everything takes a while. */
const LONG = 16 * 1024;
export const isLong = (document: string | Json) =>
  (typeof document === 'string' ? document : (JSON.stringify(document) ?? '')).length > LONG;

/** What a thread can do, by name. What goes in and comes out is copied. */
// biome-ignore lint/suspicious/noExplicitAny: the functions take whatever they take
export type Works = Record<string, (...given: any[]) => unknown>;

type Answer = { result: unknown } | { error: ErrorRecord; mistakes: Mistake[] | undefined };
interface Order {
  work: string;
  given: unknown[];
}
interface Piece extends Order {
  resolve(result: unknown): void;
  reject(error: unknown): void;
}

/** Work that takes a while, in a thread of its own, a piece at a time: nobody else waits for it. */
export class WorkThread<W extends Works> {
  #worker: Worker | null = null;
  #clock: NodeJS.Timeout | undefined;
  /** The first one is running. */
  readonly #pieces: Piece[] = [];

  /**
   * @param script the module of the thread, which calls {@link answerInThread}
   * @param tooMuch what is said of a piece that takes too long, or more memory than there is for it
   */
  constructor(
    private readonly script: URL,
    private readonly tooMuch: (limit: string) => PindroError,
    private readonly limits = LIMITS,
  ) {}

  ask<N extends keyof W & string>(work: N, ...given: Parameters<W[N]>): Promise<ReturnType<W[N]>> {
    if (this.#pieces.length >= MOST_WAITING) {
      const facts = { waiting: this.#pieces.length, seconds: COME_BACK };
      return Promise.reject(new PindroError('documents_busy', facts, { details: facts }));
    }
    return new Promise((resolve, reject) => {
      if (this.#pieces.push({ work, given, resolve, reject }) === 1) this.#begin();
    });
  }

  close(): void {
    clearTimeout(this.#clock);
    this.#drop();
    for (const { reject } of this.#pieces.splice(0)) reject(new PindroError('stopping'));
  }

  #begin(): void {
    clearTimeout(this.#clock);
    const [first] = this.#pieces;
    if (!first) {
      this.#clock = setTimeout(() => this.#drop(), IDLE).unref();
      return;
    }
    this.#worker ??= this.#start();
    const { patience } = this.limits;
    // What this process used of the processors, its thread among it: on a busy machine the clock says nothing.
    const begun = process.cpuUsage();
    const look = () => {
      const { user, system } = process.cpuUsage(begun);
      if ((user + system) / 1000 > patience) this.#lose(this.tooMuch(`${patience / 1000} s of CPU time`));
      else this.#clock = setTimeout(look, Math.min(LOOK_EVERY, patience)).unref();
    };
    this.#clock = setTimeout(look, Math.min(LOOK_EVERY, patience)).unref();
    this.#worker.postMessage({ work: first.work, given: first.given } satisfies Order);
  }

  #start(): Worker {
    const { memory } = this.limits;
    const worker = new Worker(this.script, { env: {}, resourceLimits: { maxOldGenerationSizeMb: memory } });
    worker.unref();
    worker.on('message', (answer: Answer) => {
      if (worker !== this.#worker) return;
      const piece = this.#pieces.shift();
      if ('result' in answer) piece?.resolve(answer.result);
      else piece?.reject(Object.assign(PindroError.from(answer.error), { mistakes: answer.mistakes }));
      this.#begin();
    });
    worker.on('error', (error: NodeJS.ErrnoException) => {
      if (worker !== this.#worker) return;
      const full = error.code === 'ERR_WORKER_OUT_OF_MEMORY';
      this.#lose(full ? this.tooMuch(`${memory} MB of memory`) : asPindroError(error));
    });
    return worker;
  }

  /** Aborts the running work with its thread. */
  #lose(error: PindroError): void {
    this.#drop();
    this.#pieces.shift()?.reject(error);
    this.#begin();
  }

  #drop(): void {
    const worker = this.#worker;
    this.#worker = null;
    void worker?.terminate();
  }
}

/** In the thread: does one piece of work after the other. */
export function answerInThread(works: Works): void {
  const answer = ({ work, given }: Order): Answer => {
    try {
      return { result: works[work]!(...given) };
    } catch (thrown) {
      // What nobody foresaw ends the thread, and is logged where the log is.
      if (!(thrown instanceof PindroError)) throw thrown;
      return { error: thrown.toRecord(), mistakes: thrown.mistakes };
    }
  };
  parentPort!.on('message', (order: Order) => parentPort!.postMessage(answer(order)));
}
