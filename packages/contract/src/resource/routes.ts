import type { JsonObject } from '@pindro/core';
import { z } from 'zod';
import type { Route } from '../routes/route.js';
import {
  capital,
  isPlain,
  operationOf,
  type PlainDescriptor,
  type ResourceDescriptor,
  type Verb,
} from './descriptor.js';

/* The routes of the verbs that all types of resources have in common. */

export const removal = z.object({
  id: z.string().describe('ID for undoing the removal'),
  what: z.string(),
  name: z.string(),
  by: z.string(),
  removedAt: z.string(),
  until: z.string().describe('Time until which it can be undone'),
});
export type Removal = z.infer<typeof removal>;

const force = z.object({ force: z.stringbool().default(false).describe('Even if something still uses it') });
const to = z.object({ to: z.string().describe('New name') });
const searching = z.object({
  search: z.string().max(200).optional().describe('Only those with this text in their name or description'),
});
const renamed = z.object({
  name: z.string(),
  changed: z.array(z.string()).describe('Things that refer to it, updated to the new name'),
});
const copied = z.object({ name: z.string() });
const users = z.object({ items: z.array(z.string()) });
const removed = z.object({ done: z.literal(true), removal });

export interface RenameRoute<P extends string> extends Route {
  method: 'POST';
  path: `${P}/rename`;
  body: typeof to;
  answer: typeof renamed;
}
export interface CopyRoute<P extends string> extends Route {
  method: 'POST';
  path: `${P}/copy`;
  body: typeof to;
  answer: typeof copied;
}
export interface UsesRoute<P extends string> extends Route {
  method: 'GET';
  path: `${P}/uses`;
  answer: typeof users;
}
export interface RemoveRoute<P extends string> extends Route {
  method: 'DELETE';
  path: P;
  query: typeof force;
  answer: typeof removed;
}
export interface ListRoute<P extends string, F extends z.ZodObject> extends Route {
  method: 'GET';
  path: P extends `${infer L}/:name` ? L : never;
  query: typeof searching;
  answer: z.ZodObject<{ items: z.ZodArray<Saved<F>> }>;
}
export interface GetRoute<P extends string, F extends z.ZodObject> extends Route {
  method: 'GET';
  path: P;
  answer: Saved<F>;
}
export interface SaveRoute<P extends string, F extends z.ZodObject> extends Route {
  method: 'PUT';
  path: P;
  body: F;
  answer: Saved<F>;
}
/** A plain resource as the API returns it. */
export type Saved<F extends z.ZodObject> = z.ZodObject<
  F['shape'] & { name: z.ZodString; by: z.ZodString; at: z.ZodISODateTime }
>;

type Named<D extends ResourceDescriptor> = Capitalize<D['name']>;
type Common<D extends ResourceDescriptor, V extends Verb> =
  D['verbs'] extends Record<V, unknown>
    ? D extends { own: readonly (infer Own)[] }
      ? V extends Own
        ? false
        : true
      : true
    : false;
type Plain<D extends ResourceDescriptor, F extends z.ZodObject> = {
  [K in `list${Capitalize<D['plural']>}`]: ListRoute<D['path'], F>;
} & { [K in `get${Named<D>}`]: GetRoute<D['path'], F> } & { [K in `save${Named<D>}`]: SaveRoute<D['path'], F> };

/** The routes that derive from a descriptor, by the names of their operations. */
export type ResourceRoutes<D extends ResourceDescriptor> = (Common<D, 'rename'> extends true
  ? { [K in `rename${Named<D>}`]: RenameRoute<D['path']> }
  : unknown) &
  (Common<D, 'copy'> extends true ? { [K in `copy${Named<D>}`]: CopyRoute<D['path']> } : unknown) &
  (Common<D, 'uses'> extends true ? { [K in `${D['name']}Uses`]: UsesRoute<D['path']> } : unknown) &
  (Common<D, 'remove'> extends true ? { [K in `remove${Named<D>}`]: RemoveRoute<D['path']> } : unknown) &
  (D extends { fields: infer F extends z.ZodObject } ? Plain<D, F> : unknown);

/** A word with its article. */
const one = (words: string): string => `${/^[aeiou]/i.test(words) ? 'an' : 'a'} ${words}`;

/**
 * Returns the routes that derive from a descriptor: the verbs that it names, and all of a plain resource.
 * @param descriptor of the resource
 * @returns routes by the name of their operation
 */
export function resourceRoutes<const D extends ResourceDescriptor>(descriptor: D): ResourceRoutes<D> {
  const { path, role, words } = descriptor;
  const common: Record<Verb, Omit<Route, 'about'> & { about: string }> = {
    rename: {
      ...{ method: 'POST', role, path: `${path}/rename`, body: to, answer: renamed },
      about: `Renames ${one(words)}; references follow, and the old name still works`,
    },
    copy: { method: 'POST', role, path: `${path}/copy`, about: `Copies ${one(words)}`, body: to, answer: copied },
    uses: {
      method: 'GET',
      role: 'viewer',
      path: `${path}/uses`,
      about: `Lists what uses ${one(words)}`,
      answer: users,
    },
    remove: { method: 'DELETE', role, path, about: `Removes ${one(words)}`, query: force, answer: removed },
  };
  const routes: Record<string, Route> = isPlain(descriptor) ? plainRoutes(descriptor) : {};
  for (const [verb, about] of Object.entries(descriptor.verbs) as [Verb, string | true][])
    if (!descriptor.own?.includes(verb))
      routes[operationOf(descriptor, verb)] = { ...common[verb], ...(about !== true && { about }) };
  return routes as ResourceRoutes<D>;
}

function plainRoutes({ name, plural, path, role, words, fields }: ResourceDescriptor & { fields: z.ZodObject }) {
  const taken = ['name', 'by', 'at'].find((field) => field in fields.shape);
  if (taken) throw new Error(`A field of the resource "${name}" must not be called "${taken}"`);
  const saved = fields.extend({ name: z.string(), by: z.string().describe('Who saved it'), at: z.iso.datetime() });
  return {
    [`list${capital(plural)}`]: {
      ...{ method: 'GET', role: 'viewer', path: path.replace(/\/:[^/]+$/, ''), about: `Lists ${plural}` },
      ...{ query: searching, answer: z.object({ items: z.array(saved) }) },
    },
    [`get${capital(name)}`]: { method: 'GET', role: 'viewer', path, about: `Returns one ${words}`, answer: saved },
    [`save${capital(name)}`]: {
      ...{ method: 'PUT', role, path, body: fields, answer: saved },
      about: `Saves ${one(words)} under a name, or updates it`,
    },
  } satisfies Record<string, Route>;
}

/**
 * The JSON Schema (2020-12) of what a person sets of a plain resource.
 * @param resource descriptor of the resource
 * @returns a schema of type object
 */
export const fieldsSchemaOf = ({ fields }: PlainDescriptor): JsonObject =>
  z.toJSONSchema(fields, { io: 'input' }) as JsonObject;
