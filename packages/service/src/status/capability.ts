import { openApi } from '@pindro/contract';
import { defineCapability } from '../platform/capability.js';
import { VERSION } from '../version.js';
import { STATUS_PARTS, statusRoutes } from './routes.js';

export const statusCapability = defineCapability({
  name: 'status',
  needs: STATUS_PARTS,
  routes: statusRoutes,
  pages: (app, { address }) =>
    void app.get('/api/v1/openapi.json', (_request, response) => void response.json(openApi(address(), VERSION))),
});
