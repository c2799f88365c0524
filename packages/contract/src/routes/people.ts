import { z } from 'zod';
import { person as personResource } from '../resource/person.js';
import { resourceRoutes } from '../resource/routes.js';
import { ROLES } from '../roles.js';
import * as o from './objects.js';
import { done } from './shapes.js';

const role = z.enum(ROLES);
const name = z.string().regex(/^[a-z][a-z0-9.-]{0,39}$/, 'must be lower-case letters, digits, . and -, at most 40');
/** Length is what makes a password hard to guess. */
const password = z.string().min(10).max(200);
export const person = z.object({ name: z.string(), role, hasPassword: z.boolean(), createdAt: z.string() });
export type Person = z.infer<typeof person>;

/** Addresses for the people of the console. */
export const people = {
  createSignInLink: {
    method: 'POST',
    role: 'owner',
    path: '/sign-in-links',
    about: 'Creates a one-time sign-in link for the console',
    body: z.object({ person: z.string().default('owner').describe('Person to sign in') }),
    answer: z.object({ url: z.string() }),
  },
  signOut: { method: 'POST', role: 'viewer', path: '/sign-out', about: 'Signs out of the console', answer: done },
  whoAmI: {
    method: 'GET',
    role: 'viewer',
    path: '/me',
    about: 'Returns who is signed in, and their role',
    answer: z.object({ name: z.string(), role, hasPassword: z.boolean() }),
  },
  changePassword: {
    method: 'POST',
    role: 'viewer',
    path: '/me/password',
    about: 'Sets your own password',
    body: z.object({ now: z.string().optional().describe('Present password, if there is one'), password }),
    answer: z.object({ done: z.literal(true) }),
  },
  listPeople: {
    method: 'GET',
    role: 'owner',
    path: '/people',
    about: 'Lists people who may use the console',
    query: o.searching,
    answer: z.object({ items: z.array(person) }),
  },
  addPerson: {
    method: 'POST',
    role: 'owner',
    path: '/people',
    about: 'Adds a person; they sign in with a link or a password',
    body: z.object({ name, role: role.default('viewer'), password: password.optional() }),
    answer: z.object({ person, url: z.string().describe('One-time sign-in link') }),
  },
  updatePerson: {
    method: 'PUT',
    role: 'owner',
    path: '/people/:name',
    about: "Changes a person's role or password; a new password ends their sessions",
    body: z.object({ role: role.optional(), password: password.optional() }),
    answer: person,
  },
  getPerson: { method: 'GET', role: 'owner', path: '/people/:name', about: 'Returns one person', answer: person },
  ...resourceRoutes(personResource),
} as const;
