import { DURATION } from '@pindro/core/browser';
import { z } from 'zod';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { secret } from './shapes.js';

const newCredential = z.object({
  name: z.string(),
  kind: r.credentialKind.default('bearer'),
  header: z.string().optional().describe('For kind header or query: the name of the header or parameter'),
  account: z.string().default('').describe('For basic: the user name; else for whom it is'),
  secret: secret.optional(),
  source: r.secretSource.optional().describe('Where its value is read, instead of a secret; that takes the role owner'),
  origins: z.array(z.string()).max(50).optional().describe('Where it may go; where it is first used if left out'),
});

const keep = z
  .string()
  .regex(DURATION, 'must be a duration such as 1h')
  .optional()
  .describe('How long the secret of before still goes along where the new one is refused');

/** Credentials, whose secrets never come back. */
export const credentials = {
  listCredentials: {
    method: 'GET',
    role: 'viewer',
    path: '/credentials',
    about: 'All credentials, without their secrets',
    query: o.searching,
    answer: z.object({ items: z.array(r.credentialSummary) }),
  },
  addCredential: {
    method: 'POST',
    role: 'builder',
    path: '/credentials',
    about: 'Adds a credential',
    body: newCredential,
    answer: r.credentialSummary,
  },
  changeSecret: {
    method: 'PUT',
    role: 'builder',
    path: '/credentials/:name/secret',
    about: 'Gives a credential a new secret',
    body: z.object({ secret, keep }),
    answer: r.credentialSummary,
  },
  setOrigins: {
    method: 'PUT',
    role: 'builder',
    path: '/credentials/:name/origins',
    about: 'Says where a credential may go; with none, where it is next used',
    body: z.object({ origins: z.array(z.string()).max(50) }),
    answer: r.credentialSummary,
  },
  getCredential: {
    method: 'GET',
    role: 'viewer',
    path: '/credentials/:name',
    about: 'One credential, without its secret',
    answer: r.credentialSummary,
  },
  changeCredential: {
    method: 'PUT',
    role: 'builder',
    path: '/credentials/:name',
    about: 'Changes how a credential goes along, for whom it is, or its secret',
    body: z.object({
      kind: r.credentialKind.optional(),
      header: z.string().optional(),
      account: z.string().optional(),
      secret: secret.optional(),
      source: r.secretSource.optional().describe('That takes the role owner'),
      keep,
    }),
    answer: r.credentialSummary,
  },
  testCredential: {
    method: 'POST',
    role: 'operator',
    path: '/credentials/:name/test',
    about: 'Asks every tool server that a credential goes along with, whether it lets us in',
    answer: z.object({ items: z.array(z.object({ server: z.string(), ok: z.boolean(), says: z.string() })) }),
  },
  removeCredential: o.removing('/credentials/:name', 'builder', 'Removes a credential'),
  renameCredential: o.renaming('/credentials/:name', 'builder', 'credential'),
  copyCredential: o.copying('/credentials/:name', 'builder', 'Makes a credential with the same secret'),
  credentialUses: o.using('/credentials/:name', 'credential'),
} as const satisfies Record<string, Route>;
