import type { JSONRPCMessage, RequestId } from '@modelcontextprotocol/sdk/types.js';

/** How messages of a session reach its client. */
export interface Channel {
  readonly kind: 'http' | 'sse' | 'stateless';
  /** Whether the client has a stream open on which it hears of changes, or had one that it may take up again. */
  readonly listening: boolean;
  /** Whether such a stream is open now. */
  readonly attached: boolean;
  /** The answer to a request. */
  answer(id: RequestId, message: JSONRPCMessage): void;
  /** There will be no answer, because the client cancelled. */
  drop(id: RequestId): void;
  /** A message other than a response. @param related the request it belongs to, if any */
  tell(message: JSONRPCMessage, related?: RequestId): void;
  close(): void;
}
