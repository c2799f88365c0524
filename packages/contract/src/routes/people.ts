import { z } from 'zod';
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
  signInLink: {
    method: 'POST',
    role: 'owner',
    path: '/sign-in-links',
    about: 'Makes a one-time link that opens the console',
    body: z.object({ person: z.string().default('owner').describe('Who it is for') }),
    answer: z.object({ url: z.string() }),
  },
  signOut: { method: 'POST', role: 'viewer', path: '/sign-out', about: 'Ends the console session', answer: done },
  whoAmI: {
    method: 'GET',
    role: 'viewer',
    path: '/me',
    about: 'Who is signed in, and as what',
    answer: z.object({ name: z.string(), role, hasPassword: z.boolean() }),
  },
  changePassword: {
    method: 'POST',
    role: 'viewer',
    path: '/me/password',
    about: "Sets one's own password",
    body: z.object({ now: z.string().optional().describe('The present one, where there is one'), password }),
    answer: z.object({ done: z.literal(true) }),
  },
  listPeople: {
    method: 'GET',
    role: 'owner',
    path: '/people',
    about: 'Who may use the console',
    query: o.searching,
    answer: z.object({ items: z.array(person) }),
  },
  addPerson: {
    method: 'POST',
    role: 'owner',
    path: '/people',
    about: 'Lets somebody use the console; they come in by a link, or by a password',
    body: z.object({ name, role: role.default('viewer'), password: password.optional() }),
    answer: z.object({ person, url: z.string().describe('A sign-in link that works once') }),
  },
  changePerson: {
    method: 'PUT',
    role: 'owner',
    path: '/people/:name',
    about: 'Changes what somebody may do, or their password; their sessions end with a new password',
    body: z.object({ role: role.optional(), password: password.optional() }),
    answer: person,
  },
  getPerson: { method: 'GET', role: 'owner', path: '/people/:name', about: 'One person', answer: person },
  renamePerson: o.renaming('/people/:name', 'owner', 'person'),
  removePerson: o.removing('/people/:name', 'owner', 'Takes somebody out; their sessions end at once'),
} as const;
