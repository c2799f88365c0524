/** One kind of error: what it says, what to do about it, and how each protocol carries it. */
export interface CatalogueEntry {
  /** Message template; `{name}` is filled from the parameters. */
  message: string;
  /** What to do next; filled like the message. */
  hint: string;
  /**
   * Hint for callers, models and clients instead of the hint for builders. Omitted if callers cannot act on the error.
   */
  caller?: true | string;
  /** HTTP status of the problem details answer (RFC 9457). */
  http: number;
  /** JSON-RPC error code (JSON-RPC 2.0, section 5.1) where the error answers a request as a protocol error. */
  rpc?: number;
}

export type Entries = Record<string, CatalogueEntry>;
