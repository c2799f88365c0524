import type { Api } from '../platform/api.js';
import type { WorkspaceFiles } from './files.js';

export function workspaceRoutes(api: Api, workspace: WorkspaceFiles): void {
  api.on('exportWorkspace', () => ({ files: workspace.export() }));
  api.on('compareWorkspace', ({ body }) => ({ items: workspace.compare(body.files) }));
  api.on('importWorkspace', ({ body }) => workspace.import(body.files, body.overwrite) as never);
}
