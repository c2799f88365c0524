import { modelSettings } from '@pindro/core/browser';
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
      keys: z.array(z.string()).max(20).default([]).describe('Further credentials, which take turns with the first'),
      fallback: z.string().nullable().default(null).describe('Which connection is asked where this one cannot answer'),
      settings: modelSettings.default({}),
      untested: z.boolean().default(false).describe('Also when it does not answer now'),
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
      keys: z.array(z.string()).max(20).optional().describe('All of them anew'),
      fallback: z.string().nullable().optional().describe('null: none any more'),
      settings: modelSettings.optional().describe('All of them anew'),
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
    about: 'Asks the model one short question, and has it call a tool',
    answer: z.object({
      answer: z.string(),
      milliseconds: z.number(),
      tools: z
        .object({ works: z.boolean(), says: z.string() })
        .describe('Whether it called a tool that it was offered'),
      tokens: z.object({ input: z.number(), output: z.number(), cached: z.number() }),
    }),
  },
  modelOffers: {
    method: 'GET',
    role: 'operator',
    path: '/models/:name/offers',
    about: 'The names of the models that the server of a connection offers',
    answer: z.object({ items: z.array(z.string()) }),
  },
  listDialects: {
    method: 'GET',
    role: 'viewer',
    path: '/dialects',
    about: 'The wire formats that model connections may speak, and what may be set for a connection',
    answer: z.object({
      items: z.array(
        z.object({ name: z.string(), key: z.string().describe('How its servers usually want the key, in words') }),
      ),
      settings: jsonObject.describe('JSON Schema'),
    }),
  },
} as const satisfies Record<string, Route>;
