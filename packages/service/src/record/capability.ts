import type { Json } from '@pindro/core';
import { defineCapability } from '../platform/capability.js';
import { permitOwnRecord } from '../policy/secrets.js';
import { presentRecord } from './present.js';
import { Retention } from './retention.js';
import { SqliteJournal } from './sqlite-journal.js';

const DAY = 24 * 60 * 60_000;

declare module '../platform/capability.js' {
  interface Parts {
    journal: SqliteJournal;
    retention: Retention;
  }
}

export const recordCapability = defineCapability({
  name: 'record',
  needs: ['clocks', 'record', 'vault'],
  later: ['approvals', 'runWritten', 'texts'],
  gives: ['journal', 'retention'],
  open: (parts, later) => {
    const journal = new SqliteJournal(parts.record, {
      seal: (value) => parts.vault.seal(JSON.stringify(value), 'run'),
      unseal: (sealed) => JSON.parse(parts.vault.unseal(sealed, permitOwnRecord('run'))) as Json,
      // The runs are opened later; until then none is written.
      written: (run, ended, end) => later.runWritten(run, ended, end),
      trouble: (error) => {
        if (error) parts.log.error({ error: error.message }, 'the record cannot be written; new runs are rejected');
        else parts.log.info('the record is writable again');
      },
    });
    const { keepDays: days, keepFailedDays: failedDays, keepBytes: bytes } = parts.settings;
    return {
      journal,
      retention: new Retention(
        parts.record,
        { days, failedDays, bytes },
        (gone) => {
          later.approvals.forget(gone);
          later.texts.forget(gone);
        },
        () => parts.clocks.deletion(),
      ),
    };
  },
  routes: (api, { retention, clocks }) => {
    api.on('pruneRuns', async ({ body }) => ({
      removed: await retention.prune(clocks.deletion() - body.olderThanDays * DAY),
      record: presentRecord(retention.state()),
    }));
  },
  listen: ({ retention }) => retention.start(),
  close: ({ journal, retention, log }) => {
    retention.close();
    try {
      journal.flush();
    } catch (error) {
      log.error({ error: (error as Error).message }, 'pending data is lost');
    }
  },
});
