import type { IncomingMessage, ServerResponse } from 'node:http';
import type { JSONRPCMessage, RequestId } from '@modelcontextprotocol/sdk/types.js';
import { randomText } from '../../platform/settings.js';
import type { Channel } from './channel.js';
import { INVALID_REQUEST, RpcFault } from './message.js';
import { acceptsStream } from './respond.js';
import { EventStream } from './streams.js';

/** An answer that takes longer becomes a stream, which a client can take up again when its connection breaks. */
const PATIENCE = 2000;
/** Streams of answers that are kept for clients that lost them. */
const KEPT = 20;

interface Pending {
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
  /** The stream for what the server has to say by itself. */
  #own: EventStream | null = null;

  constructor(readonly kind: 'http' | 'stateless') {}

  get listening(): boolean {
    return this.#own !== null;
  }

  get attached(): boolean {
    return this.#own?.attached ?? false;
  }

  /** Keeps the response until the answer to a request is there. */
  expect(id: RequestId, request: IncomingMessage, response: ServerResponse): void {
    const pending: Pending = {
      response,
      stream: null,
      streams: acceptsStream(request),
      timer: null,
    };
    this.#pending.set(id, pending);
    if (pending.streams && this.kind === 'http')
      pending.timer = setTimeout(() => this.#streamOf(pending), PATIENCE).unref();
    // A client that goes away has not cancelled (basic/transports): the work goes on, and a stream can be taken up.
    response.once('close', () => {
      if (pending.stream || this.#pending.get(id) !== pending) return;
      if (pending.timer) clearTimeout(pending.timer);
      this.#pending.delete(id);
    });
  }

  #streamOf(pending: Pending): EventStream {
    if (pending.timer) clearTimeout(pending.timer);
    if (!pending.stream) {
      pending.stream = this.#newStream();
      pending.stream.attach(pending.response, null);
    }
    return pending.stream;
  }

  #newStream(): EventStream {
    const stream = new EventStream(randomText(16).replaceAll('_', '-'));
    this.#streams.set(stream.id, stream);
    for (const [id, old] of this.#streams) {
      if (this.#streams.size <= KEPT) break;
      if (old.ended) this.#streams.delete(id);
    }
    return stream;
  }

  /**
   * Opens the stream for what the server says by itself, or takes up one that broke.
   * @param after the last event id that the client saw @throws RpcFault
   */
  listen(response: ServerResponse, after: string | undefined): void {
    if (after !== undefined) {
      const cut = after.lastIndexOf('_');
      const stream = this.#streams.get(after.slice(0, cut));
      if (stream) return void stream.attach(response, Number(after.slice(cut + 1)) || 0);
    }
    if (this.#own?.attached) throw new RpcFault(409, INVALID_REQUEST, 'This session has a stream open already.');
    // A stream that the client did not take up again is followed by a new one.
    if (this.#own) this.#streams.delete(this.#own.id);
    this.#own = this.#newStream();
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
    const body = JSON.stringify(message);
    pending.response.writeHead(200, { 'content-type': 'application/json', 'content-length': Buffer.byteLength(body) });
    pending.response.end(body);
  }

  drop(id: RequestId): void {
    const pending = this.#pending.get(id);
    if (!pending) return;
    this.#pending.delete(id);
    if (pending.timer) clearTimeout(pending.timer);
    if (pending.stream) return void pending.stream.end();
    pending.response.writeHead(202);
    pending.response.end();
  }

  tell(message: JSONRPCMessage, related?: RequestId): void {
    if (related === undefined) return void this.#own?.send(message);
    const pending = this.#pending.get(related);
    if (pending?.streams) this.#streamOf(pending).send(message);
  }

  close(): void {
    for (const { response, timer } of this.#pending.values()) {
      if (timer) clearTimeout(timer);
      response.end();
    }
    this.#pending.clear();
    for (const stream of this.#streams.values()) stream.close();
  }
}
