import type { Capability } from '../platform/capability.js';
import { WorkspaceFiles } from './files.js';
import { workspaceRoutes } from './routes.js';

declare module '../platform/capability.js' {
  interface Parts {
    workspace: WorkspaceFiles;
  }
}

export const workspaceCapability: Capability = {
  name: 'workspace',
  open: ({ config, bus, flows, endpoints, servers, tables, entries, credentials, models }) => ({
    workspace: new WorkspaceFiles({
      ...{ database: config, bus, flows, endpoints, servers, tables, entries, credentials, models },
    }),
  }),
  routes: (api, { workspace }) => workspaceRoutes(api, workspace),
  close: ({ workspace }) => workspace.close(),
};
