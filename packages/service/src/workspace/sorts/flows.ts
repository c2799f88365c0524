import type { JsonObject } from '@pindro/core';
import { z } from 'zod';
import { type Documents, defineSort } from './sort.js';

/** Drafts, as they were written. They are checked and kept by the flows themselves. */
export const flows = defineSort<JsonObject>({
  at: 'flows',
  named: 'name',
  write: ({ flows }) =>
    Object.fromEntries(flows.drafts.all().map((flow): [string, string] => [`flows/${flow.name}.yaml`, flow.text])),
});

const shape = z.strictObject({
  format: z.literal('pindro/live@1'),
  flow: z.string(),
  revision: z.number().int().min(1).describe('Number of the live revision'),
  note: z.string().default(''),
  published_at: z.iso.datetime(),
  text: z.string().optional().describe('The source, unchanged; the draft by default'),
});

/** What is live of each flow. */
export const live = defineSort<z.infer<typeof shape>>({
  at: 'live',
  named: 'flow',
  shape,
  write: ({ flows }, { drafts }): Documents => {
    if (drafts) return {};
    return Object.fromEntries(
      flows.drafts.all().flatMap((flow) => {
        if (flow.live === null) return [];
        const { revision, note, publishedAt, text } = flows.revisions.get(flow.name, flow.live);
        const document: JsonObject = {
          ...{ format: 'pindro/live@1', flow: flow.name, revision },
          ...(note && { note }),
          published_at: new Date(publishedAt).toISOString(),
          ...(text !== flow.text && { text }),
        };
        return [[`live/${flow.name}.yaml`, document]];
      }),
    );
  },
  keep: ({ flow, revision, note, published_at, text }, { flows }) => {
    flows.revisions.keepLive(flow, {
      revision,
      note,
      publishedAt: Date.parse(published_at),
      text: text ?? flows.drafts.get(flow).text,
    });
    return true;
  },
});
