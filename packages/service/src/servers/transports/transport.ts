import type { Transport } from '@modelcontextprotocol/sdk/shared/transport.js';
import type { boundedFetch } from '../bounded-fetch.js';

export interface Opening {
  url: URL;
  /** What goes along with each request. */
  headers: Record<string, string>;
  /** The way to the server, on which nothing that is too long comes through. */
  fetch: ReturnType<typeof boundedFetch>;
}

/** One way to speak with a server: a file here, and a line in `index.ts`. */
export interface TransportKind {
  open(opening: Opening): Transport;
  /** The status that a server answered with, where an error tells one. */
  statusOf(error: unknown): number | undefined;
  /** Whether an error of the transport itself means that the connection is lost. */
  isLost(error: Error): boolean;
}
