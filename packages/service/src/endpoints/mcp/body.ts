import type { IncomingMessage } from 'node:http';
import { humanSize, jsonMistake, PindroError } from '@pindro/core';

/**
 * Reads the JSON that a request carries. Express's parser does the same for the API; here, where every call of a tool
 * passes, its layers cost a noticeable part of the whole call. Slow senders are the HTTP server's to cut off.
 * @throws body_too_large, body_unreadable
 */
export function readJson(request: IncomingMessage, limit: number): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const pieces: Buffer[] = [];
    let size = 0;
    const refuse = (error: PindroError) => {
      pieces.length = 0;
      // What is still to come is thrown away, so that the refusal can be sent.
      request.removeAllListeners('data').resume();
      reject(error);
    };
    const tooLarge = () =>
      refuse(
        new PindroError('body_too_large', { limit: humanSize(limit), where: 'with "body_limit" of the endpoint' }),
      );
    const coding = request.headers['content-encoding'];
    if (coding !== undefined && coding !== 'identity')
      return refuse(new PindroError('body_unreadable', { why: `it is encoded as ${coding}` }));
    if (Number(request.headers['content-length'] ?? 0) > limit) return tooLarge();
    request.on('data', (piece: Buffer) => {
      size += piece.length;
      if (size > limit) tooLarge();
      else pieces.push(piece);
    });
    request.once('aborted', () => reject(new PindroError('body_unreadable', { why: 'it broke off' })));
    request.once('end', () => {
      if (size > limit) return;
      const whole = pieces.length === 1 ? pieces[0]! : Buffer.concat(pieces);
      try {
        resolve(JSON.parse(whole.toString()));
      } catch (error) {
        reject(new PindroError('body_unreadable', { why: jsonMistake(error) }));
      }
    });
  });
}
