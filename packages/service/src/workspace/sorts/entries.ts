import { entrySettings } from '@pindro/contract';
import { type JsonObject, PindroError } from '@pindro/core';
import { z } from 'zod';
import { defineSort, quoted } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/entries@1'),
  flow: z.string(),
  entries: z.array(
    z
      .looseObject({ kind: z.string(), path: z.string().optional(), on: z.boolean().default(true) })
      .transform(({ path, on, ...settings }, context) => {
        const parsed = entrySettings.safeParse(settings);
        if (parsed.success) return { path, on, settings: parsed.data };
        for (const { path: at, message } of parsed.error.issues)
          context.addIssue({ code: 'custom', path: at, message });
        return z.NEVER;
      }),
  ),
});

export const entries = defineSort<z.infer<typeof shape>>({
  at: 'entries',
  named: 'flow',
  shape,
  write: ({ entries }) =>
    Object.fromEntries(
      [...new Set(entries.list().map((entry) => entry.flow))].map((flow) => [
        `entries/${flow}.yaml`,
        {
          format: 'pindro/entries@1',
          flow,
          entries: entries.list(flow).map(({ path, on, kind, settings }) => {
            const { kind: _, ...rest } = settings;
            return { kind, ...(kind !== 'schedule' && { path }), on, ...(rest as unknown as JsonObject) };
          }),
        },
      ]),
    ),
  keep: ({ flow, entries: wanted }, { entries, flows }) => {
    if (!flows.find(flow))
      throw new PindroError('not_found', { what: 'flow', name: flow, suggestion: 'Import it along.' }, { at: '/flow' });
    entries.become(flow, wanted);
    return true;
  },
  gaps: ({ flow }, { entries }) =>
    entries
      .list(flow)
      .filter(({ settings, sealed }) => settings.kind === 'hook' && settings.guard === 'signature' && sealed !== null)
      .map(({ path }) => ({
        what: `hook "${path}" signs with a secret that whoever calls it must have`,
        command: `pindro entry change ${quoted(`hook/${path}`)} --secret`,
      })),
});
