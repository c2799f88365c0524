import { z } from 'zod';
import * as b from '../building-resources.js';
import type { Route } from './route.js';

/** The workspace as files. */
export const workspace = {
  exportWorkspace: {
    method: 'GET',
    role: 'viewer',
    path: '/workspace',
    about: 'Everything but secrets and rows, as files',
    answer: z.object({ files: b.workspaceFiles }),
  },
  importWorkspace: {
    method: 'POST',
    role: 'builder',
    path: '/workspace',
    about: 'Takes files in; all of them or none',
    body: z.object({ files: b.workspaceFiles, overwrite: z.boolean().default(false) }),
    answer: b.workspaceImported,
  },
  compareWorkspace: {
    method: 'POST',
    role: 'viewer',
    path: '/workspace/compare',
    about: 'How files differ from what is here',
    body: z.object({ files: b.workspaceFiles }),
    answer: z.object({ items: z.array(b.workspaceChange) }),
  },
} as const satisfies Record<string, Route>;
