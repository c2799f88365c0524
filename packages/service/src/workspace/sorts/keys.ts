import { anyJson, type JsonObject } from '@pindro/core';
import { z } from 'zod';
import { type Documents, defineSort, quoted } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/keys@1'),
  keys: z.array(
    z.strictObject({
      name: z.string(),
      caller: z.string(),
      attributes: z.record(z.string(), anyJson).default({}),
      stage: z.enum(['draft', 'live']).default('live'),
      endpoints: z.array(z.string()),
      tools: z.array(z.string()).optional(),
      read_only: z.boolean().default(false),
      per_minute: z.number().optional(),
    }),
  ),
});

/** Keys by name: keys are not exported, so each is issued again after an import. Those for the API are not listed. */
export const keys = defineSort<z.infer<typeof shape>>({
  at: 'keys.yaml',
  shape,
  write: ({ keys }): Documents => {
    const all = keys
      .list()
      .filter(({ id, manage }) => !manage && keys.isGood(id))
      .map(
        ({ name, caller, attributes, stage, endpoints, tools, readOnly, perMinute }): JsonObject => ({
          ...{ name, caller },
          ...(Object.keys(attributes).length > 0 && { attributes: attributes as JsonObject }),
          ...{ stage, endpoints },
          ...(tools && { tools }),
          ...(readOnly && { read_only: true }),
          ...(perMinute !== null && { per_minute: perMinute }),
        }),
      )
      .sort((a, b) => JSON.stringify(a).localeCompare(JSON.stringify(b)));
    return all.length === 0 ? {} : { 'keys.yaml': { format: 'pindro/keys@1', keys: all } };
  },
  gaps: ({ keys: all }, { keys }) => {
    const here = new Set(keys.list().map(({ name, caller }) => `${name} ${caller}`));
    return all
      .filter(({ name, caller }) => !here.has(`${name} ${caller}`))
      .map(({ name, caller, attributes, stage, endpoints, tools, read_only, per_minute }) => ({
        what: `key "${name}" for ${caller}`,
        command: [
          `pindro key issue ${quoted(name)} --caller ${quoted(caller)}`,
          ...endpoints.map((endpoint) => `--endpoint ${quoted(endpoint)}`),
          ...Object.entries(attributes).map(([key, value]) => `--attribute ${quoted(`${key}=${value}`)}`),
          ...(stage === 'live' ? [] : ['--stage draft']),
          ...(tools ?? []).map((tool) => `--tool ${quoted(tool)}`),
          ...(read_only ? ['--read-only'] : []),
          ...(per_minute === undefined ? [] : [`--per-minute ${per_minute}`]),
        ].join(' '),
      }));
  },
});
