import { humanSize, PindroError } from '@pindro/core';
import type { Outside, Way } from '../../platform/reach/outside.js';
import { type CapturedMessages, CapturedPost } from '../calling/captured-exchanges.js';

/** One message of a tool server may be so long, in bytes. Reading a longer one would hold up everybody. */
export const LONGEST_MESSAGE = 8 * 1024 * 1024;

type Fetch = (url: string | URL, init?: RequestInit) => Promise<Response>;
type Body = ReadableStreamDefaultReader<Uint8Array>;

/** The way to a tool server, on which a message that is too long breaks the stream. @param refused told why */
export function boundedFetch(
  outside: Outside,
  server: string,
  refused: (error: PindroError) => void,
  network: Way = {},
  /** Told of requests whose answers come another way. */
  messages: CapturedMessages | null = null,
): Fetch {
  const tooLarge = () => {
    const error = new PindroError(
      'answer_too_large',
      { what: `Tool server "${server}"`, limit: humanSize(LONGEST_MESSAGE) },
      { details: { server } },
    );
    // The library on the other side only tells that the stream broke.
    refused(error);
    return error;
  };
  return async (url, init) => {
    const post = CapturedPost.begin(url, init, messages);
    const response = await outside.fetch(url, init as Parameters<Outside['fetch']>[1], network).then(
      (one) => one as unknown as Response,
      (error: unknown) => {
        post?.failed(error);
        throw error;
      },
    );
    post?.answered(response);
    if (!response.body) return response;
    const streams = response.headers.get('content-type')?.startsWith('text/event-stream') ?? false;
    const reader = response.body.getReader() as Body;
    const body = streams ? boundedStream(reader, tooLarge, post) : await wholeOf(reader, tooLarge, post);
    const { status, statusText, headers } = response;
    return new Response(body, { status, statusText, headers });
  };
}

/** A body that is one message. */
async function wholeOf(reader: Body, tooLarge: () => PindroError, post: CapturedPost | null): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  let length = 0;
  for (let piece = await reader.read(); !piece.done; piece = await reader.read()) {
    post?.piece(piece.value);
    length += piece.value.length;
    if (length > LONGEST_MESSAGE) {
      void reader.cancel().catch(() => {});
      throw tooLarge();
    }
    pieces.push(piece.value);
  }
  return pieces.length === 1 ? pieces[0]! : Buffer.concat(pieces);
}

/** A stream of messages: counts what stands between two empty lines. */
function boundedStream(
  reader: Body,
  tooLarge: () => PindroError,
  post: CapturedPost | null,
): ReadableStream<Uint8Array> {
  let length = 0;
  return new ReadableStream({
    async pull(controller) {
      const { done, value } = await reader.read();
      if (done) {
        controller.close();
        return;
      }
      post?.piece(value);
      const end = Buffer.from(value.buffer, value.byteOffset, value.byteLength).lastIndexOf('\n\n');
      length = end >= 0 ? value.length - end : length + value.length;
      if (length <= LONGEST_MESSAGE) {
        controller.enqueue(value);
        return;
      }
      void reader.cancel().catch(() => {});
      throw tooLarge();
    },
    cancel: (reason) => reader.cancel(reason),
  });
}
