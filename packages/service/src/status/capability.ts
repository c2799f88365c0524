import { openApi } from '@pindro/contract';
import type { Capability } from '../platform/capability.js';
import { VERSION } from '../version.js';
import { statusRoutes } from './routes.js';

export const statusCapability: Capability = {
  name: 'status',
  routes: (
    api,
    {
      address,
      runs,
      runner,
      journal,
      retention,
      flows,
      endpoints,
      servers,
      models,
      bus,
      settings,
      approvals,
      problems,
    },
  ) =>
    statusRoutes(api, {
      version: VERSION,
      mailbox: settings.mailbox !== undefined,
      ...{ address, runs, runner, journal, retention, flows, endpoints, servers, models, bus, approvals, problems },
    }),
  pages: (app, { address }) =>
    void app.get('/api/v1/openapi.json', (_request, response) => void response.json(openApi(address(), VERSION))),
};
