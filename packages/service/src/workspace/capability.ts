import type { Capability } from '../platform/capability.js';
import { Bundles } from './bundles.js';
import { WorkspaceFiles } from './files.js';
import { workspaceRoutes } from './routes.js';

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
  close: ({ workspace }) => workspace.close(),
};
