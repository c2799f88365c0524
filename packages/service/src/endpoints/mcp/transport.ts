import type { Transport, TransportSendOptions } from '@modelcontextprotocol/sdk/shared/transport.js';
import type { JSONRPCMessage, MessageExtraInfo, RequestId } from '@modelcontextprotocol/sdk/types.js';
import type { Request, Response } from 'express';
import { INVALID_REQUEST, RpcFault } from './message.js';

interface Pending {
  response: Response;
  /** Whether the answer has become a stream of events because something had to be told before it. */
  streaming: boolean;
}

const STREAM_HEADERS = {
  'content-type': 'text/event-stream',
  'cache-control': 'no-cache, no-transform',
  'x-accel-buffering': 'no',
};
const event = (message: JSONRPCMessage) => `event: message\ndata: ${JSON.stringify(message)}\n\n`;

/**
 * One session's side of Streamable HTTP (MCP 2025-11-25, basic/transports), on Node's own request and response. An
 * answer is plain JSON unless something about the request has to be told before it; then it becomes a stream.
 */
export class HttpTransport implements Transport {
  onclose?: () => void;
  onerror?: (error: Error) => void;
  onmessage?: <T extends JSONRPCMessage>(message: T, extra?: MessageExtraInfo) => void;
  readonly #pending = new Map<RequestId, Pending>();
  #stream: Response | null = null;
  #closed = false;

  constructor(readonly sessionId: string) {}

  async start(): Promise<void> {}

  get listening(): boolean {
    return this.#stream !== null;
  }

  /**
   * Takes one message that a client posted, and keeps its response until the answer is there.
   * @param handle who is to deal with it; the SDK's server if left out
   * @throws RpcFault for an id that is in use
   */
  post(message: JSONRPCMessage, request: Request, response: Response, handle?: () => void): void {
    if (!('method' in message && 'id' in message)) {
      response.status(202).end();
      if (handle) handle();
      else this.onmessage?.(message);
      return;
    }
    const { id } = message;
    if (this.#pending.has(id)) {
      const why = `A request with id ${JSON.stringify(id)} is still being answered. Give each request an id of its own.`;
      throw new RpcFault(400, INVALID_REQUEST, why, id);
    }
    const pending: Pending = { response, streaming: false };
    this.#pending.set(id, pending);
    // A client that goes away has not cancelled (basic/transports): the work goes on, only its answer is lost.
    response.once('close', () => {
      if (this.#pending.get(id) === pending) this.#pending.delete(id);
    });
    if (handle) handle();
    else this.onmessage?.(message, { requestInfo: { headers: request.headers as never } });
  }

  /** Ends a response to which there will be no answer, because the client has cancelled the request. */
  drop(id: RequestId): void {
    const pending = this.#pending.get(id);
    this.#pending.delete(id);
    if (pending && !pending.streaming) pending.response.writeHead(202);
    pending?.response.end();
  }

  /** Opens the stream for what the server has to say by itself. @throws RpcFault when there is one already */
  listen(response: Response): void {
    if (this.#stream) throw new RpcFault(409, INVALID_REQUEST, 'This session has a stream open already.');
    this.#stream = response;
    response.writeHead(200, STREAM_HEADERS);
    response.flushHeaders();
    const beat = setInterval(() => response.write(': still here\n\n'), 25_000);
    response.once('close', () => {
      clearInterval(beat);
      this.#stream = null;
    });
  }

  async send(message: JSONRPCMessage, options?: TransportSendOptions): Promise<void> {
    const answers = 'id' in message && !('method' in message);
    const id = answers ? message.id : options?.relatedRequestId;
    if (id === undefined) {
      this.#stream?.write(event(message));
      return;
    }
    const pending = this.#pending.get(id);
    if (!pending) return;
    if (!answers) {
      if (!pending.streaming) pending.response.writeHead(200, STREAM_HEADERS);
      pending.streaming = true;
      pending.response.write(event(message));
      return;
    }
    this.#pending.delete(id);
    if (pending.streaming) pending.response.end(event(message));
    else {
      const body = JSON.stringify(message);
      pending.response.writeHead(200, {
        'content-type': 'application/json',
        'content-length': Buffer.byteLength(body),
      });
      pending.response.end(body);
    }
  }

  async close(): Promise<void> {
    if (this.#closed) return;
    this.#closed = true;
    this.#stream?.end();
    for (const { response } of this.#pending.values()) response.end();
    this.#pending.clear();
    this.onclose?.();
  }
}
