import type { FlowDetail, FlowSummary } from '@pindro/contract';
import {
  allSteps,
  asJson,
  giveWay,
  inputSchema,
  type Json,
  type JsonObject,
  letOthers,
  linksOf,
  ownOf,
  PindroError,
  type RunRequest,
  type Surroundings,
  stepKind,
  toolName,
  warningsOf,
} from '@pindro/core';
import type { EndpointPresenter } from '../endpoints/present.js';
import type { EndpointStore } from '../endpoints/store.js';
import type { KeyStore } from '../keys/store.js';
import type { Api, ApiCall } from '../platform/api.js';
import { fits } from '../platform/search.js';
import { traceOf } from '../platform/trace-of.js';
import { permitKeys } from '../policy/keys.js';
import type { Runner } from '../runs/runner.js';
import { cardsOf, isConversational } from './cards.js';
import type { FlowChecker } from './checker.js';
import type { FlowRecord } from './drafts.js';
import type { PublishFlow } from './publish.js';
import type { FlowStore } from './store.js';

interface Parts {
  store: FlowStore;
  endpoints: EndpointStore;
  presenter: EndpointPresenter;
  keys: KeyStore;
  runner: Runner;
  checker: FlowChecker;
  surroundings: () => Surroundings;
  /** What publishing the draft would break. */
  publishFlow: PublishFlow;
}

const iso = (moment: number) => new Date(moment).toISOString();

/** A flow in a line. */
export function summaryOf(flow: FlowRecord, store: FlowStore, endpoints: EndpointStore): FlowSummary {
  return {
    name: flow.name,
    title: flow.document.title ?? flow.name,
    description: flow.document.description ?? '',
    revision: flow.live,
    changed: store.revisions.isChanged(flow),
    steps: Object.keys(flow.document.steps).length,
    labels: flow.document.labels ?? [],
    sound: store.drafts.isSound(flow),
    agent: isConversational(flow.document),
    endpoints: endpoints.carrying(flow.name),
    updatedAt: iso(flow.updatedAt),
  };
}

export function flowRoutes(
  api: Api,
  { store, endpoints, presenter, keys, runner, surroundings, checker, publishFlow }: Parts,
): void {
  /** What still keeps a caller of the live flow from its answer. */
  const blockers = (flow: string): string[] => {
    const called = [...allSteps(store.loadNow(flow, 'live').document.steps)].flatMap(
      ({ step }) => stepKind(step.kind)?.references(step.with ?? {}).flows ?? [],
    );
    return [...new Set(called)]
      .filter((name) => store.drafts.find(name)?.live === null)
      .map((name) => `It calls flow "${name}", which is not published: pindro flow publish ${name}`);
  };
  const summary = (flow: FlowRecord) => summaryOf(flow, store, endpoints);

  api.on('listFlows', async ({ query }) => {
    const { search, label } = query;
    const flows = store.drafts.all().filter(({ name, document: { title, description, labels = [] } }) => {
      const carries = label === undefined || labels.includes(label);
      return carries && fits(search, name, title, description, ...labels);
    });
    await letOthers();
    await store.drafts.look(flows);
    const items: FlowSummary[] = [];
    for (const flow of flows) {
      items.push(summary(flow));
      await giveWay();
    }
    return { items };
  });
  api.on('getFlow', async (call): Promise<FlowDetail> => {
    const flow = store.drafts.get(call.param('name'));
    await store.drafts.look([flow]);
    return {
      ...summary(flow),
      text: flow.text,
      document: asJson(flow.document),
      input: inputSchema(flow.document),
      cards: cardsOf(flow.document),
      links: linksOf(flow.document),
      revisions: store.revisions.list(flow.name).map(({ revision, note, publishedAt }) => ({
        revision,
        note,
        publishedAt: iso(publishedAt),
        live: revision === flow.live,
      })),
      mistakes: store.drafts.mistakes(flow),
      warnings: warningsOf(flow.document, surroundings()),
      version: flow.updatedAt,
    };
  });
  api.on('checkFlow', async ({ body }) => {
    const { mistakes, document } = await checker.check(body.document as string | JsonObject, surroundings());
    return { mistakes, warnings: document ? warningsOf(document, surroundings()) : [] };
  });
  api.on('importFlow', async ({ body }) => {
    const written = body.document as string | JsonObject;
    const kept = store.drafts.keepChecked(written, await checker.check(written, surroundings()));
    await letOthers();
    return { ...summary(kept), warnings: warningsOf(kept.document, surroundings()) };
  });
  api.on('publishFlow', async (call) => {
    const { name } = store.drafts.get(call.param('name'));
    const { force, note } = call.body;
    return { ...(await publishFlow(name, { note, force: force })), blockers: blockers(name) };
  });

  api.on('exposeFlow', async (call) => {
    const { name: flow } = store.drafts.get(call.param('name'));
    const { endpoint, caller, description, tool: wanted } = call.body;
    const tool = toolName(wanted ?? flow);
    const { revision } = await publishFlow(flow, { force: call.body.force });
    const other = ownOf(endpoints.find(endpoint)?.tools, tool);
    if (other && !('flow' in other && other.flow === flow))
      throw new PindroError('already_there', { what: `tool on endpoint "${endpoint}"`, name: tool });
    endpoints.expose(endpoint, tool, { flow, ...(description !== undefined && { description }) });
    const { key } = keys.issue(
      {
        name: `${caller} for ${endpoint}`,
        caller,
        attributes: {},
        stage: 'live',
        endpoints: [endpoint],
        manage: false,
      },
      permitKeys(call.who),
    );
    return {
      revision,
      endpoint: presenter.detail(endpoint),
      tool,
      key,
      settings: presenter.settings(endpoint, key),
    };
  });

  const requestOf = async (call: ApiCall<'runFlow'> | ApiCall<'watchFlow'>): Promise<RunRequest> => {
    const { stage, entry, session, input, capture } = call.body;
    const name = call.param('name');
    if (stage === 'draft') await store.drafts.look([store.drafts.get(name)]);
    const { document, revision } = store.loadNow(name, stage);
    return {
      document,
      revision,
      stage,
      entry,
      caller: call.who.caller,
      session: session ?? null,
      input: input as Json,
      exact: capture,
      ...traceOf(call.request),
    };
  };
  api.on('runFlow', async (call) => runner.present(await runner.begin(await requestOf(call)).outcome));
  api.stream('watchFlow', async (call, send) => {
    const outcome = await runner.watch(await requestOf(call), send);
    send({ type: 'outcome', outcome: runner.present(outcome) });
  });
}
