import { type Json, letOthers, publishedSchema } from '@pindro/core';
import type { Access } from '../keys/store.js';
import { defineCapability } from '../platform/capability.js';
import { isLoopback } from '../platform/gate.js';
import { CallQuota } from './call-quota.js';
import { endpointJsonSchema } from './document.js';
import { Admission } from './mcp/admission.js';
import { CallStreams } from './mcp/call-streams.js';
import { EndpointLog } from './mcp/endpoint-log.js';
import { RunWatch } from './mcp/progress.js';
import { Sessions } from './mcp/sessions.js';
import { EndpointPresenter } from './present.js';
import { servedEndpoints } from './resource.js';
import { endpointRoutes } from './routes.js';
import { sessionParts } from './session-parts.js';
import { EndpointStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    endpoints: EndpointStore;
    sessions: Sessions;
    admission: Admission;
    endpointLog: EndpointLog;
    presenter: EndpointPresenter;
  }
}

/** Number of endpoints that are prepared at startup. */
const MOST_PREPARED = 20;

export const endpointsCapability = defineCapability({
  name: 'endpoints',
  needs: ['objects', 'config', 'flows', 'guesses', 'keys', 'outside', 'servers'],
  later: ['builtIns', 'checker', 'metrics', 'models', 'runner'],
  gives: ['endpoints', 'sessions', 'admission', 'endpointLog', 'presenter'],
  open: (parts, later) => {
    const { config, bus, flows, servers, keys, settings, address } = parts;
    const endpoints = new EndpointStore(config, bus, flows, servers, () => later.builtIns);
    const endpointLog = new EndpointLog(bus);
    const [watch, quota] = [new RunWatch(bus), new CallQuota()];
    const partsFor = (endpoint: () => string, access: Access) =>
      sessionParts(
        { endpoints, flows, runner: later.runner, bus, endpointLog, watch, quota, zone: settings.timeZone },
        endpoint,
        access,
      );
    const sessions = new Sessions(config, partsFor, new CallStreams(config));
    bus.on('changed', (what, name) => {
      if (what === 'key' && !keys.isGood(name)) sessions.endOfKey(name);
      if (what !== 'flow' && what !== 'server' && what !== 'endpoint') return;
      for (const session of sessions.all()) session.announce();
    });
    const mayBeOpen = isLoopback(settings.host) || settings.openToAll;
    return {
      endpoints,
      endpointLog,
      sessions,
      admission: new Admission({
        endpoints,
        keys,
        guesses: parts.guesses,
        endpointLog,
        mayBeOpen,
        bodyLimit: settings.bodyLimit,
      }),
      presenter: new EndpointPresenter({ store: endpoints, keys, sessions, address, command: settings.command }),
    };
  },
  resources: ({ endpoints, sessions }) => [servedEndpoints(endpoints, sessions)],
  routes: (api, { outside, ...parts }) =>
    endpointRoutes(api, { ...parts, store: parts.endpoints, selfFetch: (url, init) => outside.fetchSelf(url, init) }),
  pages: (app) =>
    void app.get(
      '/api/v1/schemas/endpoint.json',
      (_request, response) => void response.json(publishedSchema(endpointJsonSchema() as unknown as Json)),
    ),
  listen: ({ endpoints }) => void prepare(endpoints),
  close: ({ sessions }) => sessions.close(),
});

/** Compiles the tools of the first endpoints in the background, so that first calls do not wait for it. */
async function prepare(endpoints: EndpointStore): Promise<void> {
  for (const name of endpoints.names().slice(0, MOST_PREPARED)) {
    await letOthers();
    try {
      endpoints.served(name, 'live');
    } catch {
      // It was removed, or the service is stopping: whoever calls it gets the error.
    }
  }
}
