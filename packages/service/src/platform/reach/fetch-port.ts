import { type FetchPort, humanSize, PindroError } from '@pindro/core';
import { reasonOf } from '../reason.js';
import type { Outside } from './outside.js';

/** The core's HTTP client: streamed, bounded, and with descriptive errors. */
export const fetchPort =
  (outside: Outside): FetchPort =>
  async (request, { signal, onPiece }) => {
    const sendsBytes = request.binary === 'body' || request.binary === 'both';
    const wantsBytes = request.binary === 'answer' || request.binary === 'both';
    try {
      const response = await outside.fetch(request.url, {
        method: request.method,
        headers: request.headers,
        body: sendsBytes && request.body !== null ? Buffer.from(request.body, 'base64') : request.body,
        signal,
      });
      const decoder = new TextDecoder();
      let body = '';
      const pieces: Uint8Array[] = [];
      let bytes = 0;
      const take = (text: string) => {
        if (onPiece && response.status < 400) onPiece(text);
        else body += text;
      };
      for await (const piece of (response.body ?? []) as AsyncIterable<Uint8Array>) {
        bytes += piece.length;
        if (bytes > request.maxBytes)
          throw new PindroError('answer_too_large', {
            what: new URL(request.url).host,
            limit: humanSize(request.maxBytes),
          });
        if (wantsBytes) pieces.push(piece);
        else take(decoder.decode(piece, { stream: true }));
      }
      take(wantsBytes ? Buffer.concat(pieces).toString('base64') : decoder.decode());
      return { status: response.status, headers: Object.fromEntries(response.headers), body };
    } catch (error) {
      if (signal.aborted) throw signal.reason;
      throw refusalIn(error) ?? new Error(reasonOf(error), { cause: error });
    }
  };

/** Our own refusal, which the network's library has wrapped. */
export function refusalIn(error: unknown): PindroError | undefined {
  for (let here = error, depth = 0; here && depth < 6; depth++) {
    if (here instanceof PindroError) return here;
    const { cause, errors } = here as { cause?: unknown; errors?: unknown[] };
    here = cause ?? errors?.[0];
  }
  return undefined;
}
