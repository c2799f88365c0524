import type { ResourceDescriptor, Verb } from './descriptor.js';
import { operationOf } from './descriptor.js';
import type { Removal } from './routes.js';

/** The verbs of a resource as functions. Each takes what identifies one: the values of the parameters of its path. */
export interface ResourceVerbs {
  rename?(of: readonly string[], to: string): Promise<{ name: string; changed: string[] }>;
  copy?(of: readonly string[], to: string): Promise<{ name: string }>;
  uses?(of: readonly string[]): Promise<{ items: string[] }>;
  remove?(of: readonly string[], force: boolean): Promise<{ removal: Removal }>;
}

/**
 * Returns the common verbs that a resource has, bound to a client; those of its own are not among them.
 * @param client of the contract
 * @param resource its descriptor
 */
export function verbsOf(client: object, resource: ResourceDescriptor): ResourceVerbs {
  const parameters = [...resource.path.matchAll(/:(\w+)/g)].map((match) => match[1] ?? '');
  const call = (verb: Verb) => {
    if (resource.verbs[verb] === undefined || resource.own?.includes(verb)) return undefined;
    // Which operations there are derives from the descriptor, so that no type knows the name of this one.
    const operations = client as Record<string, (args: object) => Promise<unknown>>;
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
