import type { Review } from '@pindro/contract';
import {
  asSent,
  estimateTokens,
  type FlowDocument,
  type JsonObject,
  PindroError,
  reviewTools,
  type Stage,
} from '@pindro/core';
import type { FlowChecker } from '../flows/checker.js';
import type { FlowStore } from '../flows/store.js';
import { type KeyStore, UNLIMITED } from '../keys/store.js';
import type { MetricStore } from '../metrics/store.js';
import type { ModelStore } from '../models/store.js';
import type { Objects } from '../objects/objects.js';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import type { Runner } from '../runs/runner.js';
import type { ServerStore } from '../servers/store.js';
import { applyReview, describeTool, type Wording } from './describe-tool.js';
import { readEndpointAside } from './document.js';
import type { EndpointLog } from './mcp/endpoint-log.js';
import type { Sessions } from './mcp/sessions.js';
import { moveToolbox } from './move-toolbox.js';
import type { EndpointPresenter } from './present.js';
import { mendStep, reviewToolbox } from './review-toolbox.js';
import { type SelfFetch, selfTest } from './self-test.js';
import { reviewed } from './served.js';
import type { EndpointStore } from './store.js';
import { toolChoices } from './tool-choices.js';
import { usageOf } from './usage.js';

interface Parts {
  store: EndpointStore;
  presenter: EndpointPresenter;
  keys: KeyStore;
  sessions: Sessions;
  endpointLog: EndpointLog;
  metrics: MetricStore;
  runner: Runner;
  flows: FlowStore;
  servers: ServerStore;
  models: ModelStore;
  checker: FlowChecker;
  objects: Objects;
  /** Reaches the service itself for the self-test. */
  selfFetch: SelfFetch;
}
const DAY = 24 * 60 * 60_000;

export function endpointRoutes(api: Api, parts: Parts): void {
  const { store, presenter, keys, sessions, endpointLog, metrics, runner, objects, selfFetch } = parts;
  const review = (name: string, stage: Stage): Review => {
    const tools = store.served(name, stage);
    const list = tools.map(reviewed);
    return {
      suggestions: reviewTools(list),
      tokens: estimateTokens(list.map(asSent)),
      sent: tools.filter((tool) => tool.trouble === null).map((tool) => tool.sent),
    };
  };

  api.on('listEndpoints', ({ query }) => ({
    items: store
      .names()
      .map((name) => presenter.summary(name))
      .filter((one) => fits(query.search, one.name, one.title, one.description)),
  }));
  api.on('getEndpoint', (call) => presenter.detail(call.param('name')));
  api.on('createEndpoint', async ({ body }) => {
    const source = await readEndpointAside(body.document as string | JsonObject, parts.checker);
    const document = store.check(source);
    if (!body.replace) store.requireFresh(document.name);
    return presenter.detail(store.keep(document).name);
  });
  api.on('updateEndpoint', (call) => {
    const { icon, on, bodyLimit, ...rest } = call.body;
    const { name } = store.get(call.param('name'));
    if (on !== undefined) store.switch(name, on);
    const given = Object.entries(rest).filter(([, value]) => value !== undefined);
    const change = {
      ...Object.fromEntries(given),
      ...(icon !== undefined && { icon: icon || undefined }),
      ...(bodyLimit !== undefined && { body_limit: bodyLimit }),
    };
    if (Object.keys(change).length > 0) store.change(name, change);
    return presenter.detail(name);
  });
  api.on('renameEndpoint', async (call) => {
    const { name: from } = store.get(call.param('name'));
    const { to } = call.body;
    const callOtherwise = () => {
      const { name } = store.rename(from, to);
      keys.endpointRenamed(from, name);
      sessions.renamed(from, name);
    };
    // A name that was taken or was somebody's is refused by the store, which knows the old ones.
    await objects.rename('endpoint', from, to, { names: () => [], callOtherwise });
    return presenter.detail(to);
  });
  api.on('addTools', (call) => {
    const { name, tools, servers } = store.get(call.param('name'));
    const { body } = call;
    const taken = Object.keys(body.tools).find((tool) => tool in tools);
    if (taken) throw new PindroError('already_there', { what: `tool on endpoint "${name}"`, name: taken });
    store.change(name, {
      tools: { ...tools, ...body.tools } as typeof tools,
      servers: { ...servers, ...body.servers },
    });
    return presenter.detail(name);
  });
  api.on('moveToolbox', async (call) => {
    await moveToolbox(parts, call.param('name'), call.body.step, call.body.endpoint);
    return presenter.detail(call.body.endpoint);
  });
  api.on('listTools', () => ({ items: toolChoices(parts) }));
  api.on('reviewToolbox', (call) => reviewToolbox(parts, call.param('name'), call.query.step));
  api.on('applyToolboxReview', async (call) => {
    const { step, suggestions } = call.body;
    const applied = await mendStep(parts, call.param('name'), step, suggestions ?? null);
    return { ...reviewToolbox(parts, call.param('name'), step), applied };
  });
  api.on('describeTool', (call) => {
    const { name } = store.get(call.param('name'));
    describeTool(store, name, call.param('tool'), call.body as Wording);
    return presenter.detail(name);
  });
  api.on('removeTool', (call) => {
    const { name, tools, servers } = store.get(call.param('name'));
    const gone = call.param('tool');
    store.requireMade(name);
    if (!(gone in tools) && !(gone in servers))
      throw new PindroError('not_found', {
        what: `tool on endpoint "${name}"`,
        name: gone,
        suggestion: `It has ${[...Object.keys(tools), ...Object.keys(servers)].join(', ') || 'none yet'}.`,
      });
    const without = <T extends object>(all: T) =>
      Object.fromEntries(Object.entries(all).filter(([key]) => key !== gone)) as T;
    // Remaining tools are not checked again, so that tools of an unreachable server can be removed one by one.
    store.keep({ ...store.get(name), ...(gone in tools ? { tools: without(tools) } : { servers: without(servers) }) });
    return presenter.detail(name);
  });

  api.on('reviewEndpoint', (call) => review(call.param('name'), call.query.stage));
  api.on('applyReview', async (call) => {
    const { name } = store.get(call.param('name'));
    const applied = await applyReview(store, name, call.body.suggestions ?? null);
    return { ...review(name, 'live'), applied };
  });
  api.on('selectTool', async (call) => {
    const { name, instructions } = store.get(call.param('name'));
    const document: FlowDocument = {
      format: 'pindro/flow@1',
      name: `choosing-on-${name}`,
      steps: {
        choose: {
          kind: 'model',
          with: { model: call.body.model, message: '${ input.message }', instructions, toolbox: [{ endpoint: name }] },
        },
      },
      input: { type: 'object', properties: { message: { type: 'string' } } },
      result: { text: '${ steps.choose.text }', calls: '${ steps.choose.calls }' },
    };
    const { run, outcome } = runner.begin(
      {
        document,
        revision: null,
        stage: 'live',
        entry: 'hand',
        caller: call.who.caller,
        session: null,
        input: { message: call.body.message },
      },
      call.signal,
    );
    const { error, result } = await outcome;
    if (error) throw PindroError.from(error);
    const { text, calls } = result as { text: string; calls: { tool: string; arguments: JsonObject }[] };
    return { text, calls: calls, run };
  });

  api.on('endpointUsage', async (call) => {
    const { name, formerly } = store.get(call.param('name'));
    const { days } = call.query;
    const now = Date.now();
    return usageOf(await metrics.use([name, ...formerly], now - days * DAY), days, now);
  });
  api.on('endpointSessions', (call) => {
    const { name } = store.get(call.param('name'));
    return { items: sessions.on(name).map((session) => presenter.session(session)), happened: endpointLog.of(name) };
  });
  api.on('endSession', (call) => {
    sessions.endShown(call.param('id'));
    return { done: true };
  });
  api.on('connectEndpoint', (call) => ({ settings: presenter.settings(call.param('name')) }));
  api.on('testEndpoint', async (call) => {
    const { name, access } = store.get(call.param('name'));
    const url = call.body.url ?? presenter.urlOf(name);
    const broken = store
      .served(name, 'live')
      .flatMap((tool) => (tool.trouble === null ? [] : [{ name: tool.name, trouble: tool.trouble }]));
    if (call.body.key !== undefined) return selfTest(selfFetch, url, call.body.key, broken);
    if (access === 'open') return selfTest(selfFetch, url, null, broken);
    const lent = keys.lend({
      ...UNLIMITED,
      name: 'self-test',
      caller: { id: 'self-test', attributes: {} },
      stage: 'live',
      endpoints: [name],
    });
    try {
      return await selfTest(selfFetch, url, lent.key, broken);
    } finally {
      lent.end();
    }
  });
}
