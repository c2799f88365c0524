import type { Transport } from '@modelcontextprotocol/sdk/shared/transport.js';
import type { boundedFetch } from '../bounded-fetch.js';

export interface Opening {
  url: URL;
  /** What goes along with each request. */
  headers: Record<string, string>;
  /** The way to the server, on which nothing that is too long comes through. */
  fetch: ReturnType<typeof boundedFetch>;
  /** The server can no longer say anything by itself; requests may still be answered. */
  onQuiet(): void;
}

/** One way to speak with a server: a file here, and a line in `index.ts`. */
export interface TransportKind {
  open(opening: Opening): Transport;
  /** The status that a server answered with, where an error tells one. */
  statusOf(error: unknown): number | undefined;
  /** Whether an error of the transport itself means that the connection is lost, with all that is under way on it. */
  isLost(error: Error): boolean;
}

/** What a request is answered with whose answer can no longer come. Known by being this very object. */
export const LOST = { code: -32_000, message: 'the stream ended before the answer' } as const;
