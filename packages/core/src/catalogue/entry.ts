/** One kind of error: what it says, what to do about it, and how each protocol carries it. */
export interface CatalogueEntry {
  /** Message template; `{name}` is filled from the parameters. */
  message: string;
  /** What to do next; filled like the message. */
  hint: string;
  /**
   * What a caller, a model or a client, is told in place of the hint: those words, or the hint itself. Where it is left
   * out, it is nothing that a caller could mend.
   */
  caller?: true | string;
  /** HTTP status of the problem details answer (RFC 9457). */
  http: number;
  /** JSON-RPC error code (JSON-RPC 2.0, section 5.1) where the error answers a request as a protocol error. */
  rpc?: number;
}

export type Entries = Record<string, CatalogueEntry>;
