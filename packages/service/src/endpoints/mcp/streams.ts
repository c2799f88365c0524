import type { ServerResponse } from 'node:http';
import type { JSONRPCMessage } from '@modelcontextprotocol/sdk/types.js';

const HEADERS = {
  'content-type': 'text/event-stream',
  'cache-control': 'no-cache, no-transform',
  'x-accel-buffering': 'no',
};
const BEAT = 25_000;
/** What is kept of a stream for a client that lost it; beyond that the oldest is given up. */
const KEPT_EVENTS = 500;
const KEPT_CHARACTERS = 4 * 1024 * 1024;
/** What a client may leave unread before it is cut off; it can take the stream up again. */
const UNREAD = 16 * 1024 * 1024;

/**
 * One stream of server-sent events. Every event has an id, so that a client whose connection broke goes on after the
 * last one it saw (MCP 2025-11-25, basic/transports, resumability).
 */
export class EventStream {
  #events: { number: number; text: string }[] = [];
  #characters = 0;
  #count = 0;
  #response: ServerResponse | null = null;
  #beat: NodeJS.Timeout | null = null;
  ended = false;

  constructor(readonly id: string) {}

  get attached(): boolean {
    return this.#response !== null;
  }

  /** Sends what comes from now on, and first what came after an event. @param after the number of the last event seen */
  attach(response: ServerResponse, after: number | null): void {
    this.#detach()?.end();
    this.#response = response;
    response.writeHead(200, HEADERS);
    // An event without data tells the client from where it may go on, before anything has been said.
    if (after === null) response.write(`id: ${this.id}_${this.#count}\nretry: 1000\ndata: \n\n`);
    else for (const { number, text } of this.#events) if (number > after) response.write(text);
    response.flushHeaders();
    if (this.ended) return void this.close();
    this.#beat = setInterval(() => response.write(': still here\n\n'), BEAT).unref();
    response.once('close', () => this.#response === response && this.#detach());
  }

  send(message: JSONRPCMessage): void {
    const number = ++this.#count;
    const text = `id: ${this.id}_${number}\nevent: message\ndata: ${JSON.stringify(message)}\n\n`;
    this.#events.push({ number, text });
    this.#characters += text.length;
    while (this.#events.length > KEPT_EVENTS || (this.#characters > KEPT_CHARACTERS && this.#events.length > 1))
      this.#characters -= this.#events.shift()!.text.length;
    this.#response?.write(text);
    if ((this.#response?.writableLength ?? 0) > UNREAD) this.#detach()?.destroy();
  }

  /** Nothing more will come; what has come can still be fetched. */
  end(): void {
    this.ended = true;
    this.close();
  }

  close(): void {
    this.#detach()?.end();
  }

  #detach(): ServerResponse | null {
    const response = this.#response;
    this.#response = null;
    if (this.#beat) clearInterval(this.#beat);
    this.#beat = null;
    return response;
  }
}
