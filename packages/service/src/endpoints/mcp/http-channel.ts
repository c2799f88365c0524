import type { IncomingMessage, ServerResponse } from 'node:http';
import type { JSONRPCMessage, RequestId } from '@modelcontextprotocol/sdk/types.js';
import { randomText } from '../../platform/settings.js';
import type { Channel } from './channel.js';
import { INVALID_REQUEST, RpcFault } from './message.js';
import type { Kept } from './replay-buffer.js';
import { acceptsStream, sendJson, sendNothing } from './respond.js';
import { EventStream } from './streams.js';

/** An answer that takes longer becomes a stream, which a client can take up again when its connection breaks. */
const STREAM_AFTER = 2000;
/** Streams of answers that are kept for clients that lost them. */
const KEPT = 20;
const GONE = -32000;
/** How the id of a stream begins that carries the answer to one request; it is never handed out as anything else. */
const CALL = 'c-';

/** What keeps streams of answers beyond this process. */
export interface StreamKeeper {
  /** A request is answered on a stream from now on. */
  opened(stream: string, request: RequestId): void;
  /** The stream is not kept any more. */
  dropped(stream: string): void;
  /** Fills a stream from before the service was started again, when its answer is there. @returns whether it is known */
  revive(stream: EventStream): boolean;
}

/** Answers that leave together, in one response (MCP 2025-03-26, basic). */
class Batch {
  readonly #answers: JSONRPCMessage[] = [];

  constructor(
    private left: number,
    private readonly response: ServerResponse,
  ) {}

  /** @param answer null where there will be none */
  settle(answer: JSONRPCMessage | null): void {
    if (answer) this.#answers.push(answer);
    if (--this.left > 0 || this.response.headersSent) return;
    if (this.#answers.length === 0) sendNothing(this.response, 202);
    else sendJson(this.response, 200, this.#answers);
  }
}

interface Pending {
  /** Set where the answer leaves together with others. */
  batch: Batch | null;
  response: ServerResponse;
  stream: EventStream | null;
  /** Whether the client takes an answer as a stream. */
  streams: boolean;
  timer: NodeJS.Timeout | null;
}

/**
 * Streamable HTTP (MCP 2025-11-25, basic/transports) on Node's own request and response. An answer is plain JSON
 * unless something has to be told before it, or it takes long; then it becomes a stream.
 */
export class HttpChannel implements Channel {
  readonly #pending = new Map<RequestId, Pending>();
  /** Streams by their ids, the oldest first. */
  readonly #streams = new Map<string, EventStream>();
  /** The stream for messages without a request. */
  #own: EventStream | null = null;

  /** @param keeper none for a request without a session, whose streams cannot be taken up */
  constructor(
    readonly kind: 'http' | 'stateless',
    private readonly kept: Kept,
    private readonly keeper: StreamKeeper | null = null,
  ) {}

  get listening(): boolean {
    return this.#own !== null;
  }

  get attached(): boolean {
    return this.#own?.attached ?? false;
  }

  /** Keeps the response until the answer to a request is there. */
  expect(id: RequestId, request: IncomingMessage, response: ServerResponse): void {
    const pending: Pending = {
      batch: null,
      response,
      stream: null,
      streams: acceptsStream(request),
      timer: null,
    };
    this.#pending.set(id, pending);
    if (pending.streams && this.kind === 'http')
      pending.timer = setTimeout(() => this.#streamOf(id, pending), STREAM_AFTER).unref();
    // A disconnect is not a cancellation (basic/transports): the work continues, and the stream can be resumed.
    response.once('close', () => {
      if (pending.stream || this.#pending.get(id) !== pending) return;
      if (pending.timer) clearTimeout(pending.timer);
      this.#pending.delete(id);
    });
  }

  /** Keeps the response until all answers to a batch are there. */
  expectBatch(ids: readonly RequestId[], response: ServerResponse): void {
    const batch = new Batch(ids.length, response);
    for (const id of ids) this.#pending.set(id, { batch, response, stream: null, streams: false, timer: null });
    response.once('close', () => {
      for (const id of ids) if (this.#pending.get(id)?.batch === batch) this.#pending.delete(id);
    });
  }

  #streamOf(id: RequestId, pending: Pending): EventStream {
    if (pending.timer) clearTimeout(pending.timer);
    if (!pending.stream) {
      pending.stream = this.#newStream(CALL);
      pending.stream.attach(pending.response, null);
      this.keeper?.opened(pending.stream.id, id);
    }
    return pending.stream;
  }

  #newStream(beginning: string): EventStream {
    return this.#add(new EventStream(beginning + randomText(16).replaceAll('_', '-'), this.kept));
  }

  #add(stream: EventStream): EventStream {
    this.#streams.set(stream.id, stream);
    for (const [id, old] of this.#streams) {
      if (this.#streams.size <= KEPT) break;
      if (!old.ended) continue;
      old.forget();
      this.#streams.delete(id);
      this.keeper?.dropped(id);
    }
    return stream;
  }

  /** A stream that the client had and lost. @throws RpcFault where it carried an answer that is not kept any more */
  #takeUp(id: string, after: number): EventStream | null {
    const known = this.#streams.get(id);
    if (known || !id.startsWith(CALL)) return known ?? null;
    const stream = new EventStream(id, this.kept, after);
    if (this.keeper?.revive(stream)) return this.#add(stream);
    throw new RpcFault(
      410,
      INVALID_REQUEST,
      'The response on this stream is no longer available. See its run instead.',
    );
  }

  /**
   * Opens the stream for messages without a request, or resumes an interrupted one.
   * @param after last event ID that the client received
   * @throws RpcFault
   */
  listen(response: ServerResponse, after: string | undefined): void {
    if (after !== undefined) {
      const cut = after.lastIndexOf('_');
      const number = Number(after.slice(cut + 1)) || 0;
      const stream = this.#takeUp(after.slice(0, cut), number);
      if (stream) return void stream.attach(response, number);
    }
    if (this.#own?.attached) throw new RpcFault(409, INVALID_REQUEST, 'This session already has an open stream.');
    // A stream that the client did not take up again is followed by a new one.
    if (this.#own) {
      this.#own.forget();
      this.#streams.delete(this.#own.id);
    }
    this.#own = this.#newStream('s-');
    this.#own.attach(response, null);
  }

  answer(id: RequestId, message: JSONRPCMessage): void {
    const pending = this.#pending.get(id);
    if (!pending) return;
    this.#pending.delete(id);
    if (pending.timer) clearTimeout(pending.timer);
    if (pending.stream) {
      pending.stream.send(message);
      pending.stream.end();
      return;
    }
    if (pending.batch) return void pending.batch.settle(message);
    sendJson(pending.response, 200, message);
  }

  drop(id: RequestId): void {
    const pending = this.#pending.get(id);
    if (!pending) return;
    this.#pending.delete(id);
    if (pending.timer) clearTimeout(pending.timer);
    if (pending.stream) return void pending.stream.end();
    if (pending.batch) return void pending.batch.settle(null);
    sendNothing(pending.response, 202);
  }

  tell(message: JSONRPCMessage, related?: RequestId): void {
    if (related === undefined) return void this.#own?.send(message);
    const pending = this.#pending.get(related);
    if (pending?.streams) this.#streamOf(related, pending).send(message);
  }

  close(): void {
    for (const { response, timer, stream } of this.#pending.values()) {
      if (timer) clearTimeout(timer);
      if (!stream && !response.headersSent)
        sendJson(response, 503, new RpcFault(503, GONE, 'The session has ended.').body());
    }
    this.#pending.clear();
    for (const stream of this.#streams.values()) {
      stream.close();
      stream.forget();
    }
  }
}
