import { modelSettings } from '@pindro/core/browser';
import { z } from 'zod';
import { model } from '../resource/model.js';
import { resourceRoutes } from '../resource/routes.js';
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
    about: 'Lists model connections',
    query: o.searching,
    answer: z.object({ items: z.array(r.modelSummary) }),
  },
  addModel: {
    method: 'POST',
    role: 'builder',
    path: '/models',
    about: 'Adds a model connection after testing it',
    body: z.object({
      name: z.string(),
      dialect: z.string().default('chat-completions'),
      base: z.string(),
      model: z.string(),
      credential: z.string().optional(),
      keys: z.array(z.string()).max(20).default([]).describe('Additional credentials used in rotation'),
      fallback: z.string().nullable().default(null).describe('Connection to use when this connection fails'),
      settings: modelSettings.default({}),
      skipTest: z.boolean().default(false).describe('Even if it does not respond'),
    }),
    answer: r.modelSummary,
  },
  getModel: {
    method: 'GET',
    role: 'viewer',
    path: '/models/:name',
    about: 'Returns one model connection',
    answer: r.modelSummary,
  },
  updateModel: {
    method: 'PUT',
    role: 'builder',
    path: '/models/:name',
    about: 'Changes a model connection; saved once it responds',
    body: z.object({
      dialect: z.string().optional(),
      base: z.string().optional(),
      model: z.string().optional(),
      credential: z.string().nullable().optional().describe('null removes it'),
      keys: z.array(z.string()).max(20).optional().describe('Replaces all of them'),
      fallback: z.string().nullable().optional().describe('null for none'),
      settings: modelSettings.optional().describe('Replaces all of them'),
      skipTest: z.boolean().default(false).describe('Even if it does not respond'),
    }),
    answer: r.modelSummary,
  },
  ...resourceRoutes(model),
  testModel: {
    method: 'POST',
    role: 'operator',
    path: '/models/:name/test',
    about: 'Sends the model one short message and has it call a tool',
    answer: z.object({
      answer: z.string(),
      milliseconds: z.number(),
      tools: z
        .object({ works: z.boolean(), says: z.string() })
        .describe('Whether it called a tool that it was offered'),
      tokens: z.object({ input: z.number(), output: z.number(), cached: z.number() }),
    }),
  },
  availableModels: {
    method: 'GET',
    role: 'operator',
    path: '/models/:name/available',
    about: 'Lists the models available on the server of a connection',
    answer: z.object({ items: z.array(z.string()) }),
  },
  listDialects: {
    method: 'GET',
    role: 'viewer',
    path: '/dialects',
    about: 'Lists the wire formats (dialects) of model connections and their settings',
    answer: z.object({
      items: z.array(
        z.object({
          name: z.string(),
          key: z.string().describe('Description of how its servers usually expect the key'),
        }),
      ),
      settings: jsonObject.describe('JSON Schema'),
    }),
  },
} as const satisfies Record<string, Route>;
