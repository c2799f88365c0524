import { SSEClientTransport, SseError } from '@modelcontextprotocol/sdk/client/sse.js';
import type { TransportKind } from './transport.js';

/** HTTP+SSE, the transport of 2024-11-05: one stream for all answers, and a post for each request. */
export const sse: TransportKind = {
  open: ({ url, headers, fetch }) =>
    // It is older, and what many servers still speak.
    new SSEClientTransport(new URL(url), { fetch, requestInit: { headers } }),
  statusOf: (error) =>
    error instanceof SseError
      ? error.code
      : // A rejected post has its status in its text only.
        Number(/\(HTTP (\d{3})\)/.exec((error as Error)?.message ?? '')?.[1]) || undefined,
  repliesElsewhere: true,
  // Every answer comes through the one stream: without it nothing can be waited for.
  isLost: (error) => error instanceof SseError,
};
