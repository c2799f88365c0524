import { DURATION } from '@pindro/core/browser';
import { z } from 'zod';
import { credential } from '../resource/credential.js';
import { resourceRoutes } from '../resource/routes.js';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { secret } from './shapes.js';

const newCredential = z.object({
  name: z.string(),
  kind: r.credentialKind.default('bearer'),
  header: z.string().optional().describe('For the kinds header and query: name of the header or parameter'),
  account: z.string().default('').describe('For the kind basic: the user name; otherwise its owner'),
  secret: secret.optional(),
  source: r.secretSource.optional().describe('Source of the value, instead of a secret; requires the role owner'),
  origins: z.array(z.string()).max(50).optional().describe('Allowed origins; by default the first one it is used with'),
});

const keep = z
  .string()
  .regex(DURATION, 'must be a duration such as 1h')
  .optional()
  .describe('How long the previous secret is still tried if the new one is rejected');

/** Credentials, whose secrets never come back. */
export const credentials = {
  listCredentials: {
    method: 'GET',
    role: 'viewer',
    path: '/credentials',
    about: 'Lists credentials without their secrets',
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
  replaceSecret: {
    method: 'PUT',
    role: 'builder',
    path: '/credentials/:name/secret',
    about: 'Replaces the secret of a credential',
    body: z.object({ secret, keep }),
    answer: r.credentialSummary,
  },
  setOrigins: {
    method: 'PUT',
    role: 'builder',
    path: '/credentials/:name/origins',
    about: 'Sets the allowed origins of a credential; without any, the next one it is used with',
    body: z.object({ origins: z.array(z.string()).max(50) }),
    answer: r.credentialSummary,
  },
  getCredential: {
    method: 'GET',
    role: 'viewer',
    path: '/credentials/:name',
    about: 'Returns one credential without its secret',
    answer: r.credentialSummary,
  },
  updateCredential: {
    method: 'PUT',
    role: 'builder',
    path: '/credentials/:name',
    about: 'Changes how a credential is sent, its owner, or its secret',
    body: z.object({
      kind: r.credentialKind.optional(),
      header: z.string().optional(),
      account: z.string().optional(),
      secret: secret.optional(),
      source: r.secretSource.optional().describe('Requires the role owner'),
      keep,
    }),
    answer: r.credentialSummary,
  },
  testCredential: {
    method: 'POST',
    role: 'operator',
    path: '/credentials/:name/test',
    about: 'Tests a credential with every tool server that uses it',
    answer: z.object({ items: z.array(z.object({ server: z.string(), ok: z.boolean(), says: z.string() })) }),
  },
  ...resourceRoutes(credential),
} as const satisfies Record<string, Route>;
