import type { RequestId } from '@modelcontextprotocol/sdk/types.js';
import { asPindroError } from '@pindro/core';
import { and, eq, lt } from 'drizzle-orm';
import { bestEffort } from '../../platform/database/best-effort.js';
import type { Database } from '../../platform/database/open.js';
import { callStreams } from '../tables.js';
import type { StreamKeeper } from './http-channel.js';
import type { Session } from './session.js';

/** The record is on disk before anything that cannot be repeated; a run that is not in it has done nothing. */
const NEVER_BEGUN = 'The service stopped before this call started. Retry it.';

/** A stream that nobody took up again for so long is forgotten. */
const FORGOTTEN = 24 * 60 * 60_000;

/**
 * Stores which run each stream waits for, so that a client that resumes its stream after a restart receives the
 * result.
 */
export class CallStreams {
  constructor(private readonly database: Database) {
    bestEffort(() =>
      this.database
        .delete(callStreams)
        .where(lt(callStreams.createdAt, Date.now() - FORGOTTEN))
        .run(),
    );
  }

  /** @param session the hash of the session's id */
  keeperOf(session: string, of: () => Session): StreamKeeper {
    return {
      opened: (id, request) => {
        const call = of().callOf(request);
        if (!call) return;
        const { tool, run } = call;
        const row = { id, session, request: JSON.stringify(request), tool, run, createdAt: Date.now() };
        bestEffort(() => this.database.insert(callStreams).values(row).run());
      },
      dropped: (id) => this.#forget(id),
      revive: (stream) => {
        const own = and(eq(callStreams.id, stream.id), eq(callStreams.session, session));
        const row = this.database.select().from(callStreams).where(own).get();
        if (!row) return false;
        const id = JSON.parse(row.request) as RequestId;
        of()
          .answerLater(id, row.tool, row.run)
          .catch((error: unknown) => {
            const { code, message: why } = asPindroError(error);
            const message = code === 'not_found' ? NEVER_BEGUN : why;
            return { jsonrpc: '2.0' as const, id, error: { code: -32603, message } };
          })
          .then((answer) => {
            stream.send(answer);
            stream.end();
          })
          .catch(() => {});
        return true;
      },
    };
  }

  endOf(session: string): void {
    bestEffort(() => this.database.delete(callStreams).where(eq(callStreams.session, session)).run());
  }

  #forget(id: string): void {
    bestEffort(() => this.database.delete(callStreams).where(eq(callStreams.id, id)).run());
  }
}
