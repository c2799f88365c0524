import { humanSize, PindroError } from '@pindro/core';
import type { Outside } from '../platform/reach/outside.js';

/** One message of a tool server may be so long, in bytes. Reading a longer one would hold up everybody. */
export const LONGEST_MESSAGE = 8 * 1024 * 1024;

type Fetch = (url: string | URL, init?: RequestInit) => Promise<Response>;

/** The way to a tool server, on which a message that is too long breaks the stream. @param refused told why */
export function boundedFetch(outside: Outside, server: string, refused: (error: PindroError) => void): Fetch {
  return async (url, init) => {
    const response = (await outside.fetch(url, init as never)) as unknown as Response;
    if (!response.body) return response;
    const streams = response.headers.get('content-type')?.startsWith('text/event-stream') ?? false;
    const body = response.body.pipeThrough(bounded(server, streams, refused));
    return new Response(body, { status: response.status, statusText: response.statusText, headers: response.headers });
  };
}

/** Counts the bytes of a message: of the whole body, or in a stream of what stands between two empty lines. */
function bounded(
  server: string,
  streams: boolean,
  refused: (error: PindroError) => void,
): TransformStream<Uint8Array, Uint8Array> {
  let length = 0;
  return new TransformStream({
    transform(piece, controller) {
      const end = streams ? Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength).lastIndexOf('\n\n') : -1;
      length = end >= 0 ? piece.length - end : length + piece.length;
      if (length <= LONGEST_MESSAGE) return controller.enqueue(piece);
      const error = new PindroError(
        'answer_too_large',
        { what: `Tool server "${server}"`, limit: humanSize(LONGEST_MESSAGE) },
        { details: { server } },
      );
      // The library on the other side only tells that the stream broke.
      refused(error);
      throw error;
    },
  });
}
