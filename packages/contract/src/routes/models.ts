import { z } from 'zod';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { jsonObject } from './shapes.js';

/** Model connections. */
export const models = {
  listModels: {
    method: 'GET',
    role: 'viewer',
    path: '/models',
    about: 'All model connections',
    query: o.searching,
    answer: z.object({ items: z.array(r.modelSummary) }),
  },
  addModel: {
    method: 'POST',
    role: 'builder',
    path: '/models',
    about: 'Adds a model connection; it is tested first',
    body: z.object({
      name: z.string(),
      dialect: z.string().default('chat-completions'),
      base: z.string(),
      model: z.string(),
      credential: z.string().optional(),
      settings: jsonObject.default({}),
    }),
    answer: r.modelSummary,
  },
  getModel: {
    method: 'GET',
    role: 'viewer',
    path: '/models/:name',
    about: 'One model connection',
    answer: r.modelSummary,
  },
  changeModel: {
    method: 'PUT',
    role: 'builder',
    path: '/models/:name',
    about: 'Changes a model connection; kept once it answers',
    body: z.object({
      dialect: z.string().optional(),
      base: z.string().optional(),
      model: z.string().optional(),
      credential: z.string().nullable().optional().describe('null: none goes along any more'),
      settings: jsonObject.optional().describe('All of them anew'),
      untested: z.boolean().default(false).describe('Also when it does not answer now'),
    }),
    answer: r.modelSummary,
  },
  removeModel: o.removing('/models/:name', 'builder', 'Removes a model connection'),
  renameModel: o.renaming('/models/:name', 'builder', 'model connection'),
  copyModel: o.copying('/models/:name', 'builder', 'Makes a model connection with the same settings'),
  modelUses: o.using('/models/:name', 'model connection'),
  testModel: {
    method: 'POST',
    role: 'operator',
    path: '/models/:name/test',
    about: 'Asks the model one short question',
    answer: z.object({ answer: z.string(), milliseconds: z.number() }),
  },
} as const satisfies Record<string, Route>;
