import { type JsonObject, PindroError } from '@pindro/core';
import { z } from 'zod';
import type { Thing } from '../../platform/events.js';
import { type Documents, defineSort } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/names@1'),
  formerly: z.record(z.string(), z.record(z.string(), z.string())).describe('Present names by former ones, per type'),
});

/** Names that things went by: revisions and clients may still use them. */
export const names = defineSort<z.infer<typeof shape>>({
  at: 'names.yaml',
  shape,
  write: ({ former }): Documents => {
    const formerly = former.written() as JsonObject;
    return Object.keys(formerly).length === 0 ? {} : { 'names.yaml': { format: 'pindro/names@1', formerly } };
  },
  keep: ({ formerly }, parts) => {
    const here: Partial<Record<Thing, string[]>> = {
      ...{ flow: parts.flows.drafts.names(), table: parts.tables.names(), server: parts.servers.names() },
      ...{ model: parts.models.names(), credential: parts.credentials.names() },
    };
    for (const [what, all] of Object.entries(formerly))
      for (const [old, name] of Object.entries(all)) {
        // A name that something has now leads to that, whatever a file says.
        if (here[what as Thing]?.includes(old))
          throw new PindroError('already_there', { what, name: old }, { at: `/formerly/${what}/${old}` });
        parts.former.keepWritten(what as Thing, old, name);
      }
    return true;
  },
});
