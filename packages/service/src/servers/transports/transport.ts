import type { Transport } from '@modelcontextprotocol/sdk/shared/transport.js';
import type { PindroError } from '@pindro/core';
import type { ProgramPermit } from '../../policy/programs.js';
import type { boundedFetch } from '../connection/bounded-fetch.js';

/** Where a transport writes down what happens; all of it is masked. */
export interface TransportLog {
  /** What a program wrote. */
  wrote(line: string, level?: 'info' | 'warning'): void;
  /** What was done with it. */
  note(text: string, level?: 'info' | 'warning'): void;
  lastWords(): string[];
}

export interface Opening {
  server: string;
  /** Where the server is; empty for a program. */
  url: string;
  /** The permit to start its program; null where it is at an address. */
  permit: ProgramPermit | null;
  /** What is sent with each request. */
  headers: Record<string, string>;
  /** What credentials hold that a program is given, by their names. */
  values: Readonly<Record<string, string>>;
  /** The way to the server, on which nothing that is too long comes through. */
  fetch: ReturnType<typeof boundedFetch>;
  log: TransportLog;
  /** Told that a program runs. */
  started?(says: string): void;
  /** The server can no longer send messages without a request; requests may still be answered. */
  onQuiet(): void;
  /** Told why nothing more is taken from it. */
  refused(error: PindroError): void;
}

/** One way to speak with a server: a file here, and a line in `index.ts`. */
export interface TransportKind {
  open(opening: Opening): Transport;
  /** The status that a server answered with, where an error tells one. */
  statusOf(error: unknown): number | undefined;
  /** Set where requests are posted, and answered on a stream of another request. */
  repliesElsewhere?: boolean;
  /** Whether a transport error means that the connection is lost, with all active calls. */
  isLost(error: Error): boolean;
}

/** What a request is answered with whose answer can no longer come. Known by being this very object. */
export const LOST = { code: -32_000, message: 'the stream ended before the response' } as const;
/** What a request is answered with whose answer is none of the protocol. */
export const ODD = { code: -32_603, message: 'the response does not follow the protocol' } as const;
