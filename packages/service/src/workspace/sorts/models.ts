import { anyJson, type JsonObject } from '@pindro/core';
import { z } from 'zod';
import { hasGap, withoutKeys } from './addresses.js';
import { defineSort, quoted } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/model@1'),
  name: z.string(),
  dialect: z.string(),
  base: z.string(),
  model: z.string(),
  credential: z.string().optional(),
  keys: z.array(z.string()).optional(),
  fallback: z.string().optional(),
  settings: z.record(z.string(), anyJson).default({}),
});

export const models = defineSort<z.infer<typeof shape>>({
  at: 'models',
  named: 'name',
  shape,
  write: ({ models }) =>
    Object.fromEntries(
      models.list().map(({ name, dialect, base, model, credential, keys, fallback, settings }) => [
        `models/${name}.yaml`,
        {
          ...{ format: 'pindro/model@1', name, dialect, base: withoutKeys(base), model },
          ...(credential && { credential }),
          ...(keys.length > 0 && { keys }),
          ...(fallback && { fallback }),
          ...(Object.keys(settings).length > 0 && { settings: settings as JsonObject }),
        },
      ]),
    ),
  keep: (value, { models }) => {
    const here = models.names().includes(value.name) ? models.summary(value.name).base : null;
    const base = here !== null && withoutKeys(here) === value.base ? here : value.base;
    const { format: _, ...connection } = value;
    models.keepWritten({
      ...connection,
      base,
      credential: value.credential ?? null,
      keys: value.keys ?? [],
      fallback: value.fallback ?? null,
      settings: value.settings as JsonObject,
    });
    return true;
  },
  gaps: ({ name }, { models }) => {
    if (!hasGap(models.summary(name).base)) return [];
    const command = `pindro model update ${quoted(name)} --address ADDRESS`;
    return [{ what: `model connection "${name}" has a key in its address`, command }];
  },
});
