import type { Json } from '@pindro/core';
import type { Capability } from '../platform/capability.js';
import { SqliteJournal } from './sqlite-journal.js';

declare module '../platform/capability.js' {
  interface Parts {
    journal: SqliteJournal;
  }
}

export const recordCapability: Capability = {
  name: 'record',
  open: (parts) => {
    const journal = new SqliteJournal(parts.record, {
      seal: (value) => parts.vault.seal(JSON.stringify(value), 'run'),
      unseal: (sealed) => JSON.parse(parts.vault.unseal(sealed, 'run')) as Json,
      // The runs are opened later; until then none is written.
      written: (run, ended) => parts.runWritten(run, ended),
      trouble: (error) => {
        if (error) parts.log.error({ error: error.message }, 'the record cannot be written; new runs are refused');
        else parts.log.info('the record can be written again');
      },
    });
    return { journal };
  },
  close: ({ journal, log }) => {
    try {
      journal.flush();
    } catch (error) {
      log.error({ error: (error as Error).message }, 'what was waiting to be written is lost');
    }
  },
};
