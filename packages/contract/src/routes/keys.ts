import { z } from 'zod';
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
    .describe('On whose behalf its holder calls; the name of the key if left out'),
  attributes: jsonObject.default({}).describe('Usable as caller.NAME in expressions'),
  stage: r.stage.default('live'),
  endpoints: z.array(z.string()).default([]).describe('The endpoints it opens; "*" means all'),
  tools: z.array(z.string()).optional().describe('The only tools it opens; all of its endpoints if left out'),
  readOnly: z.boolean().default(false).describe('Opens only tools that change nothing'),
  perMinute: z.number().int().min(1).max(100_000).optional().describe('How many calls a minute it may make'),
  expires: z.string().optional().describe('After a duration such as 90d; never if left out'),
  propose: z.boolean().default(false).describe('On the workshop: may also read flows whole and propose changes'),
  credentials: z
    .record(z.string(), z.string())
    .default({})
    .describe("Credentials of its holder's own, by the tool server they are for"),
  manage: z.boolean().default(false).describe('Whether it opens the API'),
});
const issued = z.object({ key: z.string().describe('Shown this once'), summary: r.keySummary });

/** Access keys. */
export const keys = {
  listKeys: {
    method: 'GET',
    role: 'viewer',
    path: '/keys',
    about: 'All access keys, without the keys themselves',
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
    about: 'One access key, without the key itself',
    answer: r.keySummary,
  },
  changeKey: {
    method: 'PUT',
    role: 'builder',
    path: '/keys/:id',
    about: 'Changes what a key is called and what it opens; whoever holds it goes on with it',
    body: z.object({
      name: z.string().min(1).max(80).optional(),
      caller: z.string().min(1).max(80).optional(),
      attributes: jsonObject.optional(),
      stage: r.stage.optional(),
      endpoints: z.array(z.string()).optional(),
      tools: z.array(z.string()).nullable().optional().describe('null: all of its endpoints'),
      readOnly: z.boolean().optional(),
      perMinute: z.number().int().min(1).max(100_000).nullable().optional(),
      expires: z.string().nullable().optional().describe('After a duration from now such as 90d; null: never'),
      propose: z.boolean().optional(),
      credentials: z.record(z.string(), z.string()).optional(),
    }),
    answer: r.keySummary,
  },
  copyKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys/:id/copy',
    about: 'Issues a key that opens the same, for somebody else',
    body: z.object({
      name: z.string().min(1).max(80),
      caller: z.string().min(1).max(80).optional().describe('On whose behalf its holder calls; its name if left out'),
    }),
    answer: issued,
  },
  removeKey: o.removing('/keys/:id', 'builder', 'Removes a key from the list; one that was still good ends with it'),
  revokeKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys/:id/revoke',
    about: 'Revokes a key at once; its sessions end',
    answer: r.keySummary,
  },
  rotateKey: {
    method: 'POST',
    role: 'builder',
    path: '/keys/:id/rotate',
    about: 'Makes a key that opens the same; the old one is good for a while yet',
    body: z.object({ overlap: z.string().default('24h').describe('How long the old key is still good') }),
    answer: z.object({ key: z.string().describe('Shown this once'), summary: r.keySummary }),
  },
} as const satisfies Record<string, Route>;
