import { anyJson, type JsonObject } from '@pindro/core';
import { z } from 'zod';
import { hasGap, withoutKeys } from './addresses.js';
import { defineSort, quoted } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/document@1'),
  name: z.string(),
  title: z.string(),
  version: z.string(),
  url: z.string().optional(),
  base: z.string(),
  credential: z.string().optional(),
  made: z
    .record(z.string(), z.strictObject({ flow: z.string(), document: z.record(z.string(), anyJson) }))
    .describe('The flow created from each operation, and its original form'),
});

/** OpenAPI documents that flows were made from, so that a newer one can still be told from what was edited. */
export const documents = defineSort<z.infer<typeof shape>>({
  at: 'documents',
  named: 'name',
  shape,
  write: ({ documents }) =>
    Object.fromEntries(
      documents.written().map(({ name, title, version, url, base, credential, made }) => [
        `documents/${name}.yaml`,
        {
          ...{ format: 'pindro/document@1', name, title, version },
          ...(url !== null && { url: withoutKeys(url) }),
          base,
          ...(credential !== null && { credential }),
          made: made as JsonObject,
        },
      ]),
    ),
  keep: ({ format: _, ...value }, { documents }) => {
    documents.keepWritten({ ...value, url: value.url ?? null, credential: value.credential ?? null });
    return true;
  },
  gaps: ({ name, url }) =>
    url !== undefined && hasGap(url)
      ? [
          {
            what: `OpenAPI document "${name}" has a key in its address`,
            command: `pindro document refresh ${quoted(name)} --address ADDRESS`,
          },
        ]
      : [],
});
