import { AsyncLocalStorage } from 'node:async_hooks';
import type { Transport } from '@modelcontextprotocol/sdk/shared/transport.js';
import { type Exchange, LONGEST_BODY, type OnExchange } from '@pindro/core';
import { idsIn, repliesOf } from '../transports/messages.js';

/*
 * Captures the exchanges of a tool call. The client library does not pass a context along, so an AsyncLocalStorage
 * identifies the call.
 */
const calls = new AsyncLocalStorage<OnExchange>();

/** Runs work whose requests are captured. Follow-up work, such as a stream for server requests, is not. */
export async function capturing<T>(captureExchange: OnExchange | undefined, work: () => Promise<T>): Promise<T> {
  if (!captureExchange) return work();
  let open = true;
  try {
    return await calls.run((exchange) => open && captureExchange(exchange), work);
  } finally {
    open = false;
  }
}

/** One request on its way. */
export class CapturedPost {
  readonly #decoder = new TextDecoder();
  #length = 0;

  private constructor(
    private readonly exchange: Exchange,
    /** Whether what is asked is answered another way. */
    private readonly elsewhere: boolean,
  ) {}

  /** Creates a captured post, or null without a listener. */
  static begin(url: string | URL, init: RequestInit | undefined, messages: CapturedMessages | null) {
    const captureExchange = calls.getStore();
    if (!captureExchange || init?.method !== 'POST') return null;
    const headers = Object.fromEntries(new Headers(init.headers));
    const body = typeof init.body === 'string' ? init.body : '';
    const exchange: Exchange = {
      at: Date.now(),
      request: { method: 'POST', address: String(url), headers, body },
      answer: null,
    };
    captureExchange(exchange);
    messages?.posted(exchange);
    return new CapturedPost(exchange, messages !== null);
  }

  answered({ status, headers }: Pick<Response, 'status' | 'headers'>): void {
    // Where the answer comes another way it may have been quicker.
    const { body = '' } = this.exchange.answer ?? {};
    this.exchange.answer = { status, headers: Object.fromEntries(headers), body };
  }

  piece(bytes: Uint8Array): void {
    const { answer } = this.exchange;
    if (!answer || (this.elsewhere && Number(answer.status) < 400)) return;
    const text = this.#length > LONGEST_BODY ? '' : this.#decoder.decode(bytes, { stream: true });
    answer.body += text;
    this.#length += text === '' ? bytes.length : text.length;
    if (this.#length > answer.body.length) answer.characters = this.#length;
  }

  failed(error: unknown): void {
    this.exchange.error = error instanceof Error ? error.message : String(error);
  }
}

/** Maximum number of unanswered requests. */
const MOST_OPEN = 200;

type Id = string | number;

/** Messages that go one way and are answered another one: lines of a program, or the one stream of an old transport. */
export class CapturedMessages {
  readonly #open = new Map<Id, Exchange>();

  /** @param id of a request; what is only told has none, and is not answered */
  sent(id: Id | undefined, line: string): void {
    const captureExchange = id === undefined ? undefined : calls.getStore();
    if (!captureExchange) return;
    const exchange: Exchange = { at: Date.now(), request: { body: line }, answer: null };
    captureExchange(exchange);
    this.#expect(id!, exchange);
  }

  /** A request is posted, and answered here. */
  posted(exchange: Exchange): void {
    for (const id of idsIn(exchange.request.body)) this.#expect(id, exchange);
  }

  #expect(id: Id, exchange: Exchange): void {
    this.#open.set(id, exchange);
    if (this.#open.size > MOST_OPEN) this.#open.delete(this.#open.keys().next().value!);
  }

  /** Captures messages of a transport. */
  follow(transport: Transport): void {
    const { onmessage } = transport;
    transport.onmessage = (message, extra) => {
      this.came(message, () => JSON.stringify(message));
      onmessage?.(message, extra);
    };
  }

  /** @param line what came, as it was written */
  came(message: unknown, line: () => string): void {
    if (this.#open.size === 0) return;
    for (const id of repliesOf(message)) {
      const exchange = this.#open.get(id);
      if (exchange) exchange.answer = { ...exchange.answer, body: line() };
      this.#open.delete(id);
    }
  }
}
