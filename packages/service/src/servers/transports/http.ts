import { StreamableHTTPClientTransport, StreamableHTTPError } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { idsIn, repliesIn } from './messages.js';
import { resumed } from './resumed.js';
import { LOST, type Opening, type TransportKind } from './transport.js';

/** Delay before the end of a stream is reported, so that its data reaches the client, in milliseconds. */
const READ = 20;

/** Streamable HTTP, as the protocol has it since 2025-03-26: each request has an answer, and maybe a stream, of its own. */
export const http: TransportKind = {
  open: (opening) => {
    const transport: StreamableHTTPClientTransport = new StreamableHTTPClientTransport(new URL(opening.url), {
      fetch: (url, init) => fetchWatched(opening, transport, url, init),
      requestInit: { headers: opening.headers },
      // Streams are resumed below, where their requests are known.
      reconnectionOptions: {
        maxRetries: 0,
        initialReconnectionDelay: 1000,
        maxReconnectionDelay: 1000,
        reconnectionDelayGrowFactor: 1,
      },
    });
    return transport;
  },
  statusOf: (error) =>
    // Errors without an HTTP status are reported as numbers below.
    error instanceof StreamableHTTPError && (error.code ?? 0) >= 100 ? error.code : undefined,
  // Each stream is watched separately.
  isLost: () => false,
};

/** A stream that ends before its answer is taken up again, or fails the request that waits for it, and no other. */
async function fetchWatched(
  { fetch, onQuiet }: Opening,
  transport: StreamableHTTPClientTransport,
  url: string | URL,
  init?: RequestInit,
): Promise<Response> {
  const response = await fetch(url, init);
  const isStream = response.headers.get('content-type')?.startsWith('text/event-stream');
  if (!response.body || !response.ok || !isStream) return response;
  const waiting = new Set(init?.method === 'POST' ? idsIn(init.body) : []);
  const isOwn = init?.method === 'POST';
  const lose = (id: string | number) =>
    transport.onmessage?.({ jsonrpc: '2.0', id, error: { code: LOST.code, message: LOST.message, data: LOST } });
  const body = resumed(
    response.body,
    {
      // The stream without a request never completes.
      isComplete: () => isOwn && waiting.size === 0,
      most: isOwn ? 4 : 1,
      takeUp: (lastEventId) => fetch(url, again(init, lastEventId)),
      onEnd: () => {
        if (!isOwn) onQuiet();
        else setTimeout(() => waiting.forEach(lose), READ);
      },
    },
    (data) => {
      for (const id of repliesIn(data)) waiting.delete(id);
    },
  );
  return new Response(body, { status: response.status, statusText: response.statusText, headers: response.headers });
}

/** The request that takes a stream up again. */
function again(init: RequestInit | undefined, lastEventId: string): RequestInit {
  const headers = new Headers(init?.headers);
  headers.set('accept', 'text/event-stream');
  headers.set('last-event-id', lastEventId);
  headers.delete('content-type');
  return { method: 'GET', headers, ...(init?.signal && { signal: init.signal }) };
}
