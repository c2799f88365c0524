import { z } from 'zod';
import * as r from '../resources.js';
import type { Route } from './route.js';
import { jsonObject } from './shapes.js';

/** Model connections. */
export const models = {
  listModels: {
    method: 'GET',
    role: 'viewer',
    path: '/models',
    about: 'All model connections',
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
  testModel: {
    method: 'POST',
    role: 'operator',
    path: '/models/:name/test',
    about: 'Asks the model one short question',
    answer: z.object({ answer: z.string(), milliseconds: z.number() }),
  },
} as const satisfies Record<string, Route>;
