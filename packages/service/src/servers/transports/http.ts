import { StreamableHTTPClientTransport, StreamableHTTPError } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { reasonOf } from '../../platform/reason.js';
import type { TransportKind } from './transport.js';

/** Streamable HTTP, as the protocol has it since 2025-03-26. */
export const http: TransportKind = {
  open: ({ url, headers, fetch }) =>
    new StreamableHTTPClientTransport(url, {
      fetch,
      requestInit: { headers },
      // Reconnecting is done by the connection, which knows what was under way.
      reconnectionOptions: {
        maxRetries: 0,
        initialReconnectionDelay: 1000,
        maxReconnectionDelay: 1000,
        reconnectionDelayGrowFactor: 1,
      },
    }),
  statusOf: (error) =>
    // What was no status of the answer is told as a number below.
    error instanceof StreamableHTTPError && (error.code ?? 0) >= 100 ? error.code : undefined,
  isLost: (error) => /stream disconnected|terminated|fetch failed/i.test(`${error.message} ${reasonOf(error)}`),
};
