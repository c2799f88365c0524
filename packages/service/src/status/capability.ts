import { openApi } from '@pindro/contract';
import type { Capability } from '../platform/capability.js';
import { VERSION } from '../version.js';
import { statusRoutes } from './routes.js';

export const statusCapability: Capability = {
  name: 'status',
  routes: statusRoutes,
  pages: (app, { address }) =>
    void app.get('/api/v1/openapi.json', (_request, response) => void response.json(openApi(address(), VERSION))),
};
