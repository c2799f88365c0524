import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { ReadBuffer, serializeMessage } from '@modelcontextprotocol/sdk/shared/stdio.js';
import type { JSONRPCMessage, JSONRPCRequest } from '@modelcontextprotocol/sdk/types.js';

interface Options {
  /** Address of the endpoint. */
  url: string;
  key: string | undefined;
  /** Told what cannot be told to the client; standard output belongs to the protocol. */
  say(text: string): void;
}

const isRequest = (message: JSONRPCMessage): message is JSONRPCRequest => 'method' in message && 'id' in message;
/** ID that no client uses, for re-initializing on its behalf. */
const OWN_ID = 'pindro-bridge-begins-anew';

/**
 * Carries the messages of a client that only speaks stdio to an endpoint and back, one to one. When the endpoint has
 * forgotten the session it begins a new one with what the client said at first, unseen by the client.
 */
export async function bridge({ url, key, say }: Options): Promise<void> {
  const near = standardStreams();
  let far = reach();
  let first: JSONRPCRequest | null = null;
  let begun: (() => void) | null = null;
  let gone = false;
  /** Why the endpoint refused to begin, and nothing worked since. */
  let refused: string | null = null;

  /** Reaches the endpoint, and says once that it cannot be reached, and once that it can again. */
  async function request(input: string | URL, init?: RequestInit): Promise<Response> {
    try {
      const response = await fetch(input, init);
      if (gone) say('Pindro is available again.');
      gone = false;
      return response;
    } catch (error) {
      if (!gone && !init?.signal?.aborted) say(`${unreachable(url)} Retrying until it is available.`);
      gone = gone || !init?.signal?.aborted;
      throw error;
    }
  }

  function reach(): StreamableHTTPClientTransport {
    const transport = new StreamableHTTPClientTransport(new URL(url), {
      fetch: request,
      requestInit: { headers: key ? { authorization: `Bearer ${key}` } : {} },
      reconnectionOptions: {
        initialReconnectionDelay: 500,
        maxReconnectionDelay: 10_000,
        reconnectionDelayGrowFactor: 1.5,
        maxRetries: 1000,
      },
    });
    transport.onmessage = (message) => {
      if ('result' in message) {
        refused = null;
        const version = (message.result as { protocolVersion?: unknown }).protocolVersion;
        if (typeof version === 'string') transport.setProtocolVersion(version);
        if (message.id === OWN_ID) return void begun?.();
      }
      near.send(message);
    };
    let said = '';
    transport.onerror = (error) => {
      // What could not be reached has been said; of a stream that broke nothing is lost.
      if (gone || error.message === said || /disconnected|reconnect/i.test(error.message)) return;
      said = error.message;
      say(said);
    };
    return transport;
  }

  /** A new session with what the client said of itself. */
  async function beginAnew(): Promise<void> {
    await far.close();
    far = reach();
    await far.start();
    const ready = new Promise<void>((resolve) => {
      begun = resolve;
    });
    await far.send({ ...first!, id: OWN_ID });
    await ready;
    await far.send({ jsonrpc: '2.0', method: 'notifications/initialized' });
  }

  async function carry(message: JSONRPCMessage): Promise<void> {
    if (isRequest(message) && message.method === 'initialize') first = message;
    try {
      await far.send(message);
    } catch (error) {
      if ((error as { code?: number }).code !== 404 || !first) throw error;
      await beginAnew();
      await far.send(message);
    }
  }

  near.onmessage = (message) => {
    void carry(message).catch((error: unknown) => {
      const why = reason(error, url);
      if (!gone) say(why);
      if (isRequest(message) && message.method === 'initialize' && !gone) refused = why;
      if (isRequest(message)) near.send({ jsonrpc: '2.0', id: message.id, error: { code: -32000, message: why } });
    });
  };
  // What cannot be read is answered, so that its client does not wait for ever (JSON-RPC 2.0, section 5.1).
  near.onerror = (error) => {
    // The schema reports JSON that is not a message as a list of issues.
    const why = /^\s*[[{]/.test(error.message) ? 'it is not a JSON-RPC message' : error.message.split('\n')[0];
    say(`The client's message cannot be parsed: ${why}`);
    // The type of the library knows no answer without an id, which the specification wants here.
    const answer = {
      jsonrpc: '2.0',
      id: null,
      error: { code: -32_700, message: 'The message is not a JSON-RPC message' },
    };
    near.send(answer as unknown as JSONRPCMessage);
  };
  await far.start();
  near.start();
  await new Promise<void>((resolve) => {
    process.stdin.once('end', resolve);
    process.stdin.once('close', resolve);
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve());
  });
  await far.terminateSession().catch(() => {});
  await far.close();
  near.close();
  if (refused !== null) throw new Refused(refused);
}

/** The endpoint refused to begin; that has been reported. */
export class Refused extends Error {}

interface StandardStreams {
  onmessage(message: JSONRPCMessage): void;
  onerror(error: Error): void;
  start(): void;
  send(message: JSONRPCMessage): void;
  close(): void;
}

/** The client: its messages come on standard input, a line each, and those to it leave on standard output (MCP 2025-11-25, basic/transports). */
function standardStreams(): StandardStreams {
  const buffer = new ReadBuffer();
  const take = (piece: Buffer) => {
    buffer.append(piece);
    for (;;) {
      try {
        const message = buffer.readMessage();
        if (message === null) return;
        streams.onmessage(message);
      } catch (error) {
        // The line was consumed; reading continues after it.
        streams.onerror(error as Error);
      }
    }
  };
  const streams: StandardStreams = {
    onmessage: () => {},
    onerror: () => {},
    start: () => void process.stdin.on('data', take),
    send: (message) => void process.stdout.write(serializeMessage(message)),
    close: () => void process.stdin.off('data', take).pause(),
  };
  return streams;
}

/** The refusal of the endpoint in its own words, else that it cannot be reached. */
function reason(error: unknown, url: string): string {
  const text = error instanceof Error ? error.message : String(error);
  const body = /\{.*\}/s.exec(text)?.[0];
  try {
    const { error: refusal } = JSON.parse(body ?? '') as { error?: { message?: string } };
    if (refusal?.message) return refusal.message;
  } catch {
    // No refusal of ours.
  }
  return error instanceof TypeError ? unreachable(url) : text;
}

const unreachable = (url: string) => `${url} cannot be reached. Start Pindro, or check the address.`;
