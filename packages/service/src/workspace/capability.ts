import type { Capability } from '../platform/capability.js';
import { WorkspaceFiles } from './files.js';
import { workspaceRoutes } from './routes.js';

export const workspaceCapability: Capability = {
  name: 'workspace',
  routes: (api, { config, flows, endpoints, servers, tables, entries, credentials, models }) =>
    workspaceRoutes(
      api,
      new WorkspaceFiles({ database: config, flows, endpoints, servers, tables, entries, credentials, models }),
    ),
};
