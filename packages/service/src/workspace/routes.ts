import type { Api } from '../platform/api.js';
import type { WorkspaceFiles } from './files.js';

export function workspaceRoutes(api: Api, workspace: WorkspaceFiles): void {
  api.on('exportWorkspace', async () => ({ files: await workspace.export() }));
  api.on('compareWorkspace', async ({ body }) => ({ items: await workspace.compare(body.files) }));
  api.on('importWorkspace', async ({ body }) => (await workspace.import(body.files, body.overwrite)) as never);
}
