import { flowJsonSchema, publishedSchema, type Surroundings } from '@pindro/core';
import { waysInto } from '../entries/routes.js';
import { defineCapability } from '../platform/capability.js';
import { flowBuildingRoutes } from './building-routes.js';
import { FlowChecker, readyToCheck } from './checker.js';
import { FlowCalls } from './flow-calls.js';
import { flowObjectRoutes } from './object-routes.js';
import { type PublishFlow, publisherOf } from './publish.js';
import { servedFlows } from './resource.js';
import { flowRoutes, summaryOf } from './routes.js';
import { FlowStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    flows: FlowStore;
    checker: FlowChecker;
    /** What there is that a flow may name. */
    surroundings(): Surroundings;
    publishFlow: PublishFlow;
  }
}

export const flowsCapability = defineCapability({
  name: 'flows',
  needs: ['config', 'credentials', 'former', 'keys', 'models', 'servers', 'tables'],
  later: ['endpoints', 'entries', 'presenter', 'runner', 'runs'],
  gives: ['flows', 'checker', 'surroundings', 'publishFlow'],
  open: (parts, later) => {
    readyToCheck();
    const checker = new FlowChecker();
    const flows = new FlowStore({
      ...{ database: parts.config, bus: parts.bus, former: parts.former },
      ...{ checker, surroundings: () => surroundings() },
    });
    const handsTo = new FlowCalls(
      parts.bus,
      () => flows.drafts,
      () => later.endpoints.allFlows(),
    );
    const surroundings = () => ({
      flows: flows.drafts.allNames(),
      tables: [...parts.tables.names(), ...parts.former.all('table')],
      models: [...parts.models.names(), ...parts.former.all('model')],
      credentials: [...parts.credentials.names(), ...parts.former.all('credential')],
      servers: parts.servers.repository.allSeen(),
      serverRules: parts.servers.repository.allRules(),
      columns: parts.tables.definitions.allColumns(),
      endpoints: later.endpoints.allNames(),
      endpointTools: later.endpoints.allTools(),
      endpointFlows: later.endpoints.allFlows(),
      handsTo: handsTo.all(),
    });
    return {
      ...{ surroundings, checker, flows },
      publishFlow: publisherOf(() => ({ flows, endpoints: later.endpoints, entries: later.entries })),
    };
  },
  resources: ({ flows }) => [servedFlows(flows)],
  routes: (
    api,
    { flows, endpoints, presenter, keys, runner, runs, surroundings, checker, publishFlow, entries, settings },
  ) => {
    flowRoutes(api, {
      ...{ store: flows, endpoints, presenter, keys, runner, surroundings, checker, publishFlow },
    });
    flowObjectRoutes(api, { store: flows, summary: (flow) => summaryOf(flow, flows, endpoints) });
    flowBuildingRoutes(api, {
      store: flows,
      endpoints,
      surroundings,
      checker,
      zone: settings.timeZone,
      summary: (flow) => summaryOf(flow, flows, endpoints),
      entriesOf: (flow) => waysInto(entries, flow),
      documentOfRun: (run) => runs.documentOf(run),
    });
  },
  pages: (app) =>
    void app.get(
      '/api/v1/schemas/flow.json',
      (_request, response) => void response.json(publishedSchema(flowJsonSchema())),
    ),
  close: ({ checker }) => checker.close(),
});
