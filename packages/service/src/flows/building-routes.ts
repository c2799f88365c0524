import type { FlowComparisonView, FlowPreview, SavedDraft } from '@pindro/contract';
import {
  allSteps,
  asPindroError,
  checkFlow,
  compareFlows,
  draftSchema,
  type FlowDocument,
  inputSchema,
  type Json,
  type JsonObject,
  linksOf,
  type Mistake,
  PindroError,
  pointer,
  readSource,
  type Surroundings,
  sourceOf,
  stepKind,
  stepKinds,
  Template,
  today,
  writeText,
} from '@pindro/core';
import { z } from 'zod';
import type { EndpointStore } from '../endpoints/store.js';
import type { Api } from '../platform/api.js';
import { cardsOf } from './cards.js';
import { impactOf } from './impact.js';
import type { FlowRecord, FlowStore } from './store.js';

interface Parts {
  store: FlowStore;
  endpoints: EndpointStore;
  surroundings: () => Surroundings;
  zone: string;
  summary(flow: FlowRecord): SavedDraft['summary'];
  usersOf(flow: string): string[];
  documentOfRun(run: string): FlowDocument | undefined;
  entriesOf(flow: string): { name: string; gives: string[] | null }[];
}

const iso = (moment: number) => new Date(moment).toISOString();

/** How a document is drawn, as far as it can be read. */
export function drawing(document: FlowDocument): Omit<FlowPreview, 'mistakes'> {
  return {
    cards: cardsOf(document),
    links: linksOf(document),
    bodies: bodiesOf(document),
    input: inputSchema(document) as FlowPreview['input'],
    document: document as unknown as FlowPreview['document'],
  };
}

function bodiesOf(document: FlowDocument): FlowPreview['bodies'] {
  const bodies = [...allSteps(document.steps)].flatMap(({ step, at }) => {
    const body = stepKind(step.kind)?.body?.(step.with ?? {});
    return body ? [[pointer([...at, 'with']), { cards: cardsOf(body), links: linksOf(body) }]] : [];
  });
  return Object.fromEntries(bodies);
}

/** Addresses for drawing flows and keeping their versions. */
export function flowBuildingRoutes(api: Api, parts: Parts): void {
  const { store, endpoints, surroundings } = parts;
  const kinds = stepKinds().map((kind) => ({
    name: kind.name,
    title: kind.title,
    about: kind.about,
    schema: z.toJSONSchema(kind.config, { io: 'input', unrepresentable: 'any' }) as never,
    plain: [...(kind.plain ?? [])],
  }));
  api.on('listKinds', () => ({ items: kinds }));

  api.on('previewFlow', ({ body }): FlowPreview => {
    const written = body.document as string | JsonObject;
    const source = typeof written === 'string' ? readSource(written) : sourceOf(written);
    const parsed = draftSchema.safeParse(source.value);
    const { mistakes } = checkFlow(written, surroundings());
    const empty = { cards: [], links: [], bodies: {}, input: {}, document: null };
    return { ...(parsed.success ? drawing(parsed.data) : empty), mistakes: mistakes as Mistake[] };
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
      return { missing: [], error: asPindroError(error).toRecord() as never };
    }
  });

  api.on('saveDraft', (call): SavedDraft => {
    const { document, version } = call.body;
    const flow = store.saveDraft(call.param('name'), document as string | JsonObject, version);
    return {
      ...drawing(flow.document),
      mistakes: store.mistakes(flow),
      summary: parts.summary(flow),
      version: flow.updatedAt,
    };
  });

  api.on('removeFlow', (call) => {
    const name = call.param('name');
    const users = [
      ...endpoints.carrying(name).map((endpoint) => `endpoint "${endpoint}"`),
      ...parts.usersOf(name).filter((user) => user !== `flow "${name}"`),
      ...parts.entriesOf(name).map((entry) => entry.name),
    ];
    if (users.length > 0) throw new PindroError('in_use', { what: 'Flow', name, users: users.join(', ') });
    store.remove(name);
    return { done: true };
  });

  api.on('flowImpact', (call) => ({
    items: impactOf(call.param('name'), { flows: store, endpoints, entries: parts.entriesOf }),
  }));
  api.on('getRevision', (call) => {
    const name = call.param('name');
    const one = store.revision(name, Number(call.param('revision')));
    return {
      revision: one.revision,
      note: one.note,
      publishedAt: iso(one.publishedAt),
      live: one.revision === store.get(name).live,
      text: one.text,
      document: one.document as never,
    };
  });
  api.on('makeLive', (call) => {
    const revision = Number(call.param('revision'));
    store.makeLive(call.param('name'), revision);
    return { revision };
  });
  /** A version of a flow, or what a run of it ran. */
  const versionOf = (name: string, which: string) => {
    const document = /^r[0-9a-z]{9,}$/.test(which) ? parts.documentOfRun(which) : undefined;
    return document ? { document, text: writeText(document as unknown as JsonObject) } : store.version(name, which);
  };
  api.on('compareFlow', (call): FlowComparisonView => {
    const name = call.param('name');
    const before = versionOf(name, call.query.from);
    const after = versionOf(name, call.query.to);
    const { changes, steps, lines } = compareFlows(before, after);
    const removed = Object.entries(before.document.steps).filter(([step]) => steps[step] === 'removed');
    const both = { steps: { ...Object.fromEntries(removed), ...after.document.steps } };
    return { changes: changes as never, steps, lines, cards: cardsOf(both), links: linksOf(both) };
  });
}
