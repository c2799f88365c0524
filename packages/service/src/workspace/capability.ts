import { defineCapability } from '../platform/capability.js';
import { Bundles } from './bundles.js';
import { WorkspaceFiles } from './files.js';
import { workspaceRoutes } from './routes.js';
import { fileSchemas } from './schemas.js';
import { WORKSPACE_PARTS } from './sorts/sort.js';

declare module '../platform/capability.js' {
  interface Parts {
    workspace: WorkspaceFiles;
    bundles: Bundles;
  }
}

export const workspaceCapability = defineCapability({
  name: 'workspace',
  needs: WORKSPACE_PARTS,
  gives: ['workspace', 'bundles'],
  open: (parts) => {
    const workspace = new WorkspaceFiles(parts);
    return { workspace, bundles: new Bundles({ ...parts, workspace }) };
  },
  routes: (api, { workspace, bundles }) => workspaceRoutes(api, workspace, bundles),
  pages: (app) => {
    for (const [name, schema] of Object.entries(fileSchemas()))
      app.get(`/api/v1/schemas/${name}.json`, (_request, response) => void response.json(schema));
  },
  close: ({ workspace }) => workspace.close(),
});
