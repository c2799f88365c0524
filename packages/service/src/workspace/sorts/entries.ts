import { isDeepStrictEqual } from 'node:util';
import { entrySettings } from '@pindro/contract';
import { asJson, PindroError } from '@pindro/core';
import { z } from 'zod';
import { defineSort, type Gap, quoted } from './sort.js';

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
            return { kind, ...(kind !== 'schedule' && { path }), on, ...asJson(rest) };
          }),
        },
      ]),
    ),
  keep: ({ flow, entries: wanted }, { entries, flows }) => {
    if (!flows.drafts.find(flow))
      throw new PindroError(
        'not_found',
        { what: 'flow', name: flow, suggestion: 'Import it as well.' },
        { at: '/flow' },
      );
    entries.become(flow, wanted);
    return true;
  },
  // One that is off here stays off.
  unchanged: ({ flow, entries: wanted }, { entries }) => {
    const here = entries.list(flow);
    return (
      here.length === wanted.length &&
      wanted.every(({ path, on, settings }) =>
        here.some(
          (one) =>
            (settings.kind === 'schedule' || one.path === (path ?? flow)) &&
            isDeepStrictEqual(one.settings, settings) &&
            (on || !one.on),
        ),
      )
    );
  },
  gaps: ({ flow, entries: wanted }, { entries }) =>
    entries.list(flow).flatMap(({ id, kind, path, on, settings, sealed }): Gap[] => {
      const name = kind === 'schedule' ? id.slice(0, 8) : `${kind}/${path}`;
      const words =
        settings.kind === 'schedule' ? `the schedule "${settings.cron}" of flow "${flow}"` : `${kind} "${path}"`;
      return [
        ...(settings.kind === 'hook' && settings.guard === 'signature' && sealed !== null
          ? [
              {
                what: `${words} requires a signing secret, which callers need too`,
                command: `pindro entry update ${quoted(name)} --secret`,
              },
            ]
          : []),
        ...(on || !wanted.some((one) => one.on && one.settings.kind === kind)
          ? []
          : [{ what: `${words} is disabled until you enable it`, command: `pindro entry enable ${quoted(name)}` }]),
      ];
    }),
});
