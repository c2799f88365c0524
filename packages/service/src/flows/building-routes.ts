import type { FlowComparisonView, FlowPreview, SavedDraft } from '@pindro/contract';
import {
  asJson,
  asPindroError,
  type FlowDocument,
  flowInvalid,
  type Json,
  type JsonObject,
  linksOf,
  type Surroundings,
  stepKinds,
  Template,
  today,
  writeText,
} from '@pindro/core';
import { z } from 'zod';
import type { EndpointStore } from '../endpoints/store.js';
import { type Api, Written } from '../platform/api.js';
import { cardsOf } from './cards.js';
import type { FlowChecker } from './checker.js';
import type { FlowRecord } from './drafts.js';
import { impactOf } from './impact.js';
import { Presence } from './presence.js';
import type { FlowStore } from './store.js';

interface Parts {
  store: FlowStore;
  endpoints: EndpointStore;
  surroundings: () => Surroundings;
  checker: FlowChecker;
  zone: string;
  summary(flow: FlowRecord): SavedDraft['summary'];
  documentOfRun(run: string): FlowDocument | undefined;
  entriesOf(flow: string): { name: string; gives: string[] | null }[];
}

const iso = (moment: number) => new Date(moment).toISOString();

/** Addresses for drawing flows and keeping their versions. */
export function flowBuildingRoutes(api: Api, parts: Parts): void {
  const { store, endpoints, surroundings, checker } = parts;
  const kinds = stepKinds().map((kind) => ({
    name: kind.name,
    title: kind.title,
    about: kind.about,
    schema: z.toJSONSchema(kind.config, { io: 'input', unrepresentable: 'any' }),
    plain: [...(kind.plain ?? [])],
  }));
  api.on('listKinds', () => ({ items: kinds }));

  api.on('previewFlow', async ({ body }) => {
    const { preview } = await checker.draw(body.document as string | JsonObject, surroundings());
    return new Written<FlowPreview>(preview);
  });

  api.on('evaluate', ({ body }) => {
    const now = Date.now();
    const scope = {
      input: body.input,
      steps: body.steps,
      caller: { id: 'you' },
      session: { id: 'a-session' },
      run: { id: 'a-run', flow: 'this-flow', stage: 'draft' },
      clock: { now: new Date(now), today: today(now, parts.zone), zone: parts.zone },
      ...(body.item !== undefined && { item: body.item, index: body.index ?? 0 }),
    };
    try {
      const { value, missing } = new Template(body.value as Json).fill(scope);
      const said = missing.map(({ expression, why }) => `"${expression}" has no value: ${why}`);
      return { ...(value !== undefined && { value }), missing: said, error: null };
    } catch (error) {
      return { missing: [], error: asPindroError(error).toRecord() };
    }
  });

  api.on('saveDraft', async (call) => {
    const { document, version, fresh } = call.body;
    if (fresh) store.drafts.requireFresh(call.param('name'));
    const { flow, preview } = await store.drafts.saveDraft(
      call.param('name'),
      document as string | JsonObject,
      version,
    );
    return new Written<SavedDraft>(preview, { summary: parts.summary(flow), version: flow.updatedAt });
  });

  api.on('flowImpact', (call) => ({
    items: impactOf(call.param('name'), { flows: store, endpoints, entries: parts.entriesOf }),
  }));
  api.on('getRevision', (call) => {
    const name = call.param('name');
    const one = store.revisions.get(name, Number(call.param('revision')));
    return {
      revision: one.revision,
      note: one.note,
      publishedAt: iso(one.publishedAt),
      live: one.revision === store.drafts.get(name).live,
      text: one.text,
      document: one.document,
    };
  });
  api.on('activateRevision', (call) => {
    const revision = Number(call.param('revision'));
    store.revisions.activate(call.param('name'), revision);
    return { revision };
  });
  /** A version of a flow, or what a run of it ran. */
  const versionOf = (name: string, which: string) => {
    const document = /^r[0-9a-z]{9,}$/.test(which) ? parts.documentOfRun(which) : undefined;
    return document ? { document, text: writeText(asJson(document)) } : store.revisions.version(name, which);
  };
  const presence = new Presence();
  api.on('reportPresence', (call) => {
    const { name: self } = call.who;
    const names = presence.here(store.drafts.get(call.param('name')).name, call.body.page, self);
    return { others: names.filter((name) => name !== self), elsewhere: names.includes(self) };
  });
  api.on('compareFlow', (call) => {
    const name = call.param('name');
    return comparison(versionOf(name, call.query.from), versionOf(name, call.query.to));
  });
  api.on('compareDraft', async (call) => {
    const name = call.param('name');
    const { draft } = await store.drafts.draw(name, call.body.document as string | JsonObject);
    if (!draft.document) throw flowInvalid({ document: null, mistakes: draft.mistakes, name });
    return comparison(store.drafts.get(name), draft);
  });

  async function comparison(
    before: { document: FlowDocument; text: string },
    after: { document: FlowDocument; text: string },
  ): Promise<FlowComparisonView> {
    const { changes, steps, lines } = await checker.compare(before, after);
    const removed = Object.entries(before.document.steps).filter(([step]) => steps[step] === 'removed');
    const both = { steps: { ...Object.fromEntries(removed), ...after.document.steps } };
    return { changes: changes, steps, lines, cards: cardsOf(both), links: linksOf(both) };
  }
}
