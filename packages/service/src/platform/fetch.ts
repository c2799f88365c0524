import type { FetchPort } from '@pindro/core';
import { reasonOf } from './reason.js';

/** The core's way out to the web: streamed, bounded, and with reasons in words. */
export const webFetch: FetchPort = async (request, { signal, onPiece }) => {
  const sendsBytes = request.binary === 'body' || request.binary === 'both';
  const wantsBytes = request.binary === 'answer' || request.binary === 'both';
  try {
    const response = await fetch(request.url, {
      method: request.method,
      headers: request.headers,
      body: sendsBytes && request.body !== null ? Buffer.from(request.body, 'base64') : request.body,
      signal,
      redirect: 'follow',
    });
    const decoder = new TextDecoder();
    let body = '';
    const pieces: Uint8Array[] = [];
    let bytes = 0;
    const take = (text: string) => {
      if (onPiece && response.status < 400) onPiece(text);
      else body += text;
    };
    for await (const piece of response.body ?? []) {
      bytes += piece.length;
      if (bytes > request.maxBytes)
        throw new Error(`the answer is larger than ${Number((request.maxBytes / 1024 / 1024).toPrecision(3))} MiB`);
      if (wantsBytes) pieces.push(piece);
      else take(decoder.decode(piece, { stream: true }));
    }
    take(wantsBytes ? Buffer.concat(pieces).toString('base64') : decoder.decode());
    return { status: response.status, headers: Object.fromEntries(response.headers), body };
  } catch (error) {
    if (signal.aborted) throw signal.reason;
    throw new Error(reasonOf(error), { cause: error });
  }
};
