import type { ServerResponse } from 'node:http';

/** What one client may leave unread of a stream, in bytes; beyond that it is cut off. A whole result must fit. */
const EACH = 16 * 1024 * 1024;
/** What all clients together may; the one that leaves most is cut off first. */
const ALL = 128 * 1024 * 1024;
/** Less than this in one stream is not worth counting all. */
const LITTLE = 64 * 1024;

const streaming = new Set<ServerResponse>();

/**
 * Writes to a stream whose client may have stopped reading. What is unread is held in memory, so that it has limits, for
 * each stream and for all together. @returns false where the client was cut off
 */
export function writeBounded(response: ServerResponse, text: string): boolean {
  if (response.destroyed || response.writableEnded) return false;
  if (!streaming.has(response)) {
    streaming.add(response);
    response.once('close', () => streaming.delete(response));
  }
  response.write(text);
  const unread = response.writableLength;
  if (unread > EACH) response.destroy();
  else if (unread > LITTLE && totalUnread() > ALL) mostUnread().destroy();
  return !response.destroyed;
}

const totalUnread = () => [...streaming].reduce((sum, { writableLength }) => sum + writableLength, 0);
const mostUnread = () => [...streaming].reduce((most, one) => (one.writableLength > most.writableLength ? one : most));
