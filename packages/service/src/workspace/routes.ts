import { mayUse } from '@pindro/contract';
import { type JsonObject, PindroError } from '@pindro/core';
import type { Api, Who } from '../platform/api.js';
import type { Bundles } from './bundles.js';
import type { WorkspaceFiles } from './files.js';

/** Who may use the console is an owner's to say, also in a file. */
function requireOwner({ name, role }: Who): void {
  if (!mayUse(role, 'owner')) throw new PindroError('role_too_low', { name, role, needed: 'owner' });
}

export function workspaceRoutes(api: Api, workspace: WorkspaceFiles, bundles: Bundles): void {
  api.on('exportWorkspace', async ({ query, who }) => {
    if (query.people) requireOwner(who);
    return { files: await workspace.export(query) };
  });
  api.on('compareWorkspace', async ({ body, who }) => {
    if ('people.yaml' in body.files) requireOwner(who);
    return { items: await workspace.compare(body.files) };
  });
  api.on('importWorkspace', async ({ body, who }) => {
    if ('people.yaml' in body.files) requireOwner(who);
    return await workspace.import(body.files, body);
  });
  api.on('exportBundle', async (call) => ({ text: await bundles.make(call.param('name')) }));
  api.on('previewBundle', ({ body }) => bundles.preview(body.document as string | JsonObject));
  api.on('importBundle', async ({ body }) =>
    bundles.take(body.document as string | JsonObject, { match: body.match, overwrite: body.overwrite }),
  );
}
