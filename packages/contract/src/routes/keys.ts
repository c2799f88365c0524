import { z } from 'zod';
import { key } from '../resource/key.js';
import { resourceRoutes } from '../resource/routes.js';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { jsonObject } from './shapes.js';

const newKey = z.object({
  name: z.string().min(1).max(80),
  caller: z
    .string()
    .min(1)
    .max(80)
    .optional()
    .describe('On whose behalf its holder calls; the name of the key by default'),
  attributes: jsonObject.default({}).describe('Available as caller.NAME in expressions'),
  stage: r.stage.default('live'),
  endpoints: z.array(z.string()).default([]).describe('Endpoints it grants access to; "*" for all'),
  tools: z.array(z.string()).optional().describe('Tools it grants access to; all of its endpoints by default'),
  readOnly: z.boolean().default(false).describe('Grants access to read-only tools only'),
  perMinute: z.number().int().min(1).max(100_000).optional().describe('Rate limit in calls per minute'),
  expires: z.string().optional().describe('Duration such as 90d; never by default'),
  propose: z.boolean().default(false).describe('On the workshop: may also read whole flows and propose changes'),
  credentials: z.record(z.string(), z.string()).default({}).describe("Its holder's own credentials, by tool server"),
  manage: z.boolean().default(false).describe('Whether it grants access to the API'),
});
const issued = z.object({ key: z.string().describe('Shown only once'), summary: r.keySummary });

/** Access keys. */
export const keys = {
  listKeys: {
    method: 'GET',
    role: 'viewer',
    path: '/keys',
    about: 'Lists access keys without the keys themselves',
    query: o.searching,
    answer: z.object({ items: z.array(r.keySummary) }),
  },
  issueKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys',
    about: 'Issues an access key',
    body: newKey,
    answer: issued,
  },
  getKey: {
    method: 'GET',
    role: 'viewer',
    path: '/keys/:id',
    about: 'Returns one access key without the key itself',
    answer: r.keySummary,
  },
  updateKey: {
    method: 'PUT',
    role: 'builder',
    path: '/keys/:id',
    about: 'Changes the name and scope of a key; its holder keeps using it',
    body: z.object({
      name: z.string().min(1).max(80).optional(),
      caller: z.string().min(1).max(80).optional(),
      attributes: jsonObject.optional(),
      stage: r.stage.optional(),
      endpoints: z.array(z.string()).optional(),
      tools: z.array(z.string()).nullable().optional().describe('null for all of its endpoints'),
      readOnly: z.boolean().optional(),
      perMinute: z.number().int().min(1).max(100_000).nullable().optional(),
      expires: z.string().nullable().optional().describe('Duration from now such as 90d; null: never'),
      propose: z.boolean().optional(),
      credentials: z.record(z.string(), z.string()).optional(),
    }),
    answer: r.keySummary,
  },
  copyKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys/:id/copy',
    about: 'Issues a key with the same scope for somebody else',
    body: z.object({
      name: z.string().min(1).max(80),
      caller: z.string().min(1).max(80).optional().describe('On whose behalf its holder calls; its name by default'),
    }),
    answer: issued,
  },
  ...resourceRoutes(key),
  revokeKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys/:id/revoke',
    about: 'Revokes a key immediately and ends its sessions',
    answer: r.keySummary,
  },
  rotateKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys/:id/rotate',
    about: 'Issues a replacement with the same scope; the old key remains valid for an overlap',
    body: z.object({ overlap: z.string().default('24h').describe('How long the old key remains valid') }),
    answer: z.object({ key: z.string().describe('Shown only once'), summary: r.keySummary }),
  },
} as const satisfies Record<string, Route>;
