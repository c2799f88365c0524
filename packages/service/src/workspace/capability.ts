import type { Capability } from '../platform/capability.js';
import { Bundles } from './bundles.js';
import { WorkspaceFiles } from './files.js';
import { workspaceRoutes } from './routes.js';
import { fileSchemas } from './schemas.js';

declare module '../platform/capability.js' {
  interface Parts {
    workspace: WorkspaceFiles;
    bundles: Bundles;
  }
}

export const workspaceCapability: Capability = {
  name: 'workspace',
  open: (parts) => ({ workspace: new WorkspaceFiles(parts), bundles: new Bundles(parts) }),
  routes: (api, { workspace, bundles }) => workspaceRoutes(api, workspace, bundles),
  pages: (app) => {
    for (const [name, schema] of Object.entries(fileSchemas()))
      app.get(`/api/v1/schemas/${name}.json`, (_request, response) => void response.json(schema));
  },
  close: ({ workspace }) => workspace.close(),
};
