import type { ServerResponse } from 'node:http';
import type { JSONRPCMessage } from '@modelcontextprotocol/sdk/types.js';
import { writeBounded } from '../../platform/outflow.js';
import type { Kept } from './replay-buffer.js';

const HEADERS = {
  'x-content-type-options': 'nosniff',
  'content-type': 'text/event-stream',
  'cache-control': 'no-store, no-transform',
  'x-accel-buffering': 'no',
};
const BEAT = 25_000;
/** Maximum number of buffered events of a stream; beyond that the oldest are dropped. */
const KEPT_EVENTS = 500;

/**
 * One stream of server-sent events. Events have IDs, so that a client can resume after the last one it received (MCP
 * 2025-11-25, basic/transports, resumability).
 */
export class EventStream {
  #events: { number: number; text: string }[] = [];
  #characters = 0;
  #response: ServerResponse | null = null;
  #beat: NodeJS.Timeout | null = null;
  ended = false;

  /** @param count how many events the client had seen of it before the service was started again */
  constructor(
    readonly id: string,
    private readonly kept: Kept,
    private count = 0,
  ) {}

  get attached(): boolean {
    return this.#response !== null;
  }

  /** Sends what comes from now on, and first what came after an event. @param after the number of the last event seen */
  attach(response: ServerResponse, after: number | null): void {
    this.#detach()?.end();
    this.#response = response;
    response.writeHead(200, HEADERS);
    // An event without data gives the client an ID to resume from before the first message.
    if (after === null) response.write(`id: ${this.id}_${this.count}\nretry: 1000\ndata: \n\n`);
    else for (const { number, text } of this.#events) if (number > after) response.write(text);
    response.flushHeaders();
    if (this.ended) return void this.close();
    this.#beat = setInterval(() => writeBounded(response, ': still here\n\n'), BEAT).unref();
    response.once('close', () => this.#response === response && this.#detach());
  }

  send(message: JSONRPCMessage): void {
    const number = ++this.count;
    const text = `id: ${this.id}_${number}\nevent: message\ndata: ${JSON.stringify(message)}\n\n`;
    if (this.#response && !writeBounded(this.#response, text)) this.#detach();
    this.#events.push({ number, text });
    this.#characters += text.length;
    this.kept.add(this, text.length);
    if (this.#events.length > KEPT_EVENTS) this.shorten(1);
  }

  /** Drops the oldest events, at least this many characters. */
  shorten(by: number): void {
    let freed = 0;
    while (freed < by && this.#events.length > 0) freed += this.#events.shift()!.text.length;
    this.#characters -= freed;
    this.kept.remove(this, freed, this.#events.length === 0);
  }

  /** Gives up all that is kept. */
  forget(): void {
    this.shorten(Number.POSITIVE_INFINITY);
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
