import { parentPort, Worker } from 'node:worker_threads';
import { asPindroError, type ErrorRecord, type Mistake, PindroError } from '@pindro/core';

/** What one piece of work may take, in milliseconds and MB. */
const LIMITS = { patience: 20_000, memory: 512 };
/** A thread that nobody needs is let go after this many milliseconds. */
const IDLE = 20_000;

type Answer<Result> = { result: Result } | { error: ErrorRecord; mistakes: Mistake[] | undefined };
interface Piece<Request, Result> {
  request: Request;
  resolve(result: Result): void;
  reject(error: unknown): void;
}

/** Work of one kind that takes a while, in a thread of its own, a piece at a time: nobody else waits for it. */
export class WorkThread<Request, Result> {
  #worker: Worker | null = null;
  #clock: NodeJS.Timeout | undefined;
  /** The first is under way. */
  readonly #pieces: Piece<Request, Result>[] = [];

  /**
   * @param script the module of the thread, which calls {@link answerInThread}
   * @param tooMuch what is said of a piece that takes too long, or more memory than there is for it
   */
  constructor(
    private readonly script: URL,
    private readonly tooMuch: (limit: string) => PindroError,
    private readonly limits = LIMITS,
  ) {}

  ask(request: Request): Promise<Result> {
    return new Promise((resolve, reject) => {
      if (this.#pieces.push({ request, resolve, reject }) === 1) this.#begin();
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
    this.#clock = setTimeout(() => this.#lose(this.tooMuch(`${patience / 1000} s`)), patience).unref();
    this.#worker.postMessage(first.request);
  }

  #start(): Worker {
    const { memory } = this.limits;
    const worker = new Worker(this.script, { env: {}, resourceLimits: { maxOldGenerationSizeMb: memory } });
    worker.unref();
    worker.on('message', (answer: Answer<Result>) => {
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

  /** Gives up what is under way, with its thread. */
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
export function answerInThread<Request, Result>(work: (request: Request) => Result): void {
  const answer = (request: Request): Answer<Result> => {
    try {
      return { result: work(request) };
    } catch (thrown) {
      // What nobody foresaw ends the thread, and is logged where the log is.
      if (!(thrown instanceof PindroError)) throw thrown;
      return { error: thrown.toRecord(), mistakes: thrown.mistakes };
    }
  };
  parentPort!.on('message', (request: Request) => parentPort!.postMessage(answer(request)));
}
