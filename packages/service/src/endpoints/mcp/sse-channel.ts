import type { ServerResponse } from 'node:http';
import type { JSONRPCMessage } from '@modelcontextprotocol/sdk/types.js';
import { writeBounded } from '../../platform/outflow.js';
import type { Channel } from './channel.js';

const BEAT = 25_000;

/** The older HTTP+SSE transport (MCP 2024-11-05, basic/transports): one stream carries everything to the client. */
export class SseChannel implements Channel {
  readonly kind = 'sse';
  readonly listening = true;
  readonly attached = true;
  readonly #beat: NodeJS.Timeout;

  /** @param messages where a session's client posts its messages */
  constructor(
    private readonly response: ServerResponse,
    private readonly messages: (session: string) => string,
  ) {
    response.writeHead(200, {
      'x-content-type-options': 'nosniff',
      'content-type': 'text/event-stream',
      'cache-control': 'no-store, no-transform',
      'x-accel-buffering': 'no',
    });
    this.#beat = setInterval(() => writeBounded(response, ': still here\n\n'), BEAT).unref();
    response.once('close', () => clearInterval(this.#beat));
  }

  /** Tells the client where to post. */
  open(session: string): void {
    this.response.write(`event: endpoint\ndata: ${this.messages(session)}\n\n`);
  }

  answer(_id: unknown, message: JSONRPCMessage): void {
    this.tell(message);
  }

  drop(): void {}

  tell(message: JSONRPCMessage): void {
    writeBounded(this.response, `event: message\ndata: ${JSON.stringify(message)}\n\n`);
  }

  close(): void {
    clearInterval(this.#beat);
    this.response.end();
  }
}
