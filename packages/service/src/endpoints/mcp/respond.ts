import type { IncomingMessage, ServerResponse } from 'node:http';
import accepts from 'accepts';

/** On every answer: it is what it says it is, and nobody keeps it. */
export const GUARDED = { 'x-content-type-options': 'nosniff', 'cache-control': 'no-store' } as const;

export const STREAM = 'text/event-stream';

/** Whether a client takes an answer as a stream (RFC 9110, section 12.5.1). Nearly all say so plainly. */
export function acceptsStream(request: IncomingMessage): boolean {
  if (request.headers.accept?.endsWith(STREAM)) return true;
  return accepts(request).type([STREAM]) === STREAM;
}

export function sendJson(response: ServerResponse, status: number, value: object): void {
  const body = JSON.stringify(value);
  response.writeHead(status, {
    ...GUARDED,
    'content-type': 'application/json',
    'content-length': Buffer.byteLength(body),
  });
  response.end(body);
}

export function sendNothing(response: ServerResponse, status: number): void {
  response.writeHead(status, GUARDED);
  response.end();
}
