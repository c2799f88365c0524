import type { ResourceDescriptor, Verb } from './descriptor.js';
import { capital, operationOf } from './descriptor.js';
import type { Removal } from './routes.js';

/** Verbs of a resource as functions. Each takes the path parameters that identify a resource. */
export interface ResourceVerbs {
  rename?(of: readonly string[], to: string): Promise<{ name: string; changed: string[] }>;
  copy?(of: readonly string[], to: string): Promise<{ name: string }>;
  uses?(of: readonly string[]): Promise<{ items: string[] }>;
  remove?(of: readonly string[], force: boolean): Promise<{ removal: Removal }>;
}

/** Which operations there are derives from descriptors, so that no type knows their names. */
type Operations = Readonly<Record<string, ((args: object) => Promise<unknown>) | undefined>>;

/**
 * Returns the common verbs that a resource has, bound to a client; those of its own are not among them.
 * @param client of the contract
 * @param resource its descriptor
 * @returns functions bound to the client; one is missing where the resource has no such verb
 */
export function verbsOf(client: object, resource: ResourceDescriptor): ResourceVerbs {
  const parameters = [...resource.path.matchAll(/:(\w+)/g)].map((match) => match[1] ?? '');
  const call = (verb: Verb) => {
    if (resource.verbs[verb] === undefined || resource.own?.includes(verb)) return undefined;
    const operations = client as Operations;
    const operation = operations[operationOf(resource, verb)];
    if (!operation) return undefined;
    return (of: readonly string[], args: object = {}) =>
      operation({
        ...Object.fromEntries(parameters.map((name, index) => [name, of[index]])),
        ...args,
      });
  };
  const [rename, copy, uses, remove] = [call('rename'), call('copy'), call('uses'), call('remove')];
  const verbs = {
    ...(rename && { rename: (of: readonly string[], to: string) => rename(of, { body: { to } }) }),
    ...(copy && { copy: (of: readonly string[], to: string) => copy(of, { body: { to } }) }),
    ...(uses && { uses: (of: readonly string[]) => uses(of) }),
    ...(remove && {
      remove: (of: readonly string[], force: boolean) => remove(of, { query: { force: String(force) } }),
    }),
  };
  return verbs as ResourceVerbs;
}

/** A plain resource as returned by the API. */
export interface SavedValue {
  name: string;
  /** Who saved it. */
  by: string;
  at: string;
  [field: string]: unknown;
}
/** Verbs of a plain resource in addition to the common ones. */
export interface PlainVerbs {
  list(search?: string): Promise<{ items: SavedValue[] }>;
  get(name: string): Promise<SavedValue>;
  save(name: string, fields: object): Promise<SavedValue>;
}

/**
 * Returns the verbs of a plain resource, bound to a client.
 * @param resource its descriptor
 * @param client of the contract
 * @returns functions bound to the client
 * @throws Error if the resource is not a name with fields
 */
export function plainVerbsOf(
  client: object,
  { name: type, plural }: Pick<ResourceDescriptor, 'name' | 'plural'>,
): PlainVerbs {
  const call = (operation: string, args: object) => {
    const act = (client as Operations)[operation];
    if (!act) throw new Error(`The API has no operation "${operation}"`);
    return act(args);
  };
  return {
    list: (search) =>
      call(`list${capital(plural)}`, { query: search ? { search } : {} }) as Promise<{ items: SavedValue[] }>,
    get: (name) => call(`get${capital(type)}`, { name }) as Promise<SavedValue>,
    save: (name, body) => call(`save${capital(type)}`, { name, body }) as Promise<SavedValue>,
  };
}
