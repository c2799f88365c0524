import { capital, operationOf, type Verb } from '@pindro/contract';
import type { Api, ApiCall } from '../platform/api.js';
import type { Thing } from '../platform/events.js';
import { requireName } from '../platform/names.js';
import type { PlainStore, ServedResource } from '../platform/resources.js';
import { fits } from '../platform/search.js';
import type { Objects } from './objects.js';

/** A call of a route that derives from a descriptor. */
interface DerivedCall extends Omit<ApiCall<'renameModel'>, 'query'> {
  query: unknown;
}
/** Operations whose names derive from descriptors, so that no type knows them. */
interface DerivedApi {
  on(name: string, handler: (call: DerivedCall) => unknown): void;
}

/** Serves the routes that derive from the descriptor of a resource. */
export function serveResource(api: Api, objects: Objects, served: ServedResource): void {
  const { is, plain } = served;
  const what = is.name as Thing;
  const derived: DerivedApi = { on: (name, handler) => api.onDerived(name, handler) };
  const identifier = is.path.slice(is.path.lastIndexOf(':') + 1);
  const on = (verb: Verb, serve: (name: string, call: DerivedCall) => unknown) => {
    if (is.verbs[verb] === undefined || is.own?.includes(verb)) return;
    derived.on(operationOf(is, verb), (call) => serve(served.nameOf(call.param(identifier)), call));
  };
  const { callOtherwise, copy } = served;
  if (callOtherwise)
    on('rename', (name, call) =>
      objects.rename(what, name, call.body.to, {
        names: () => served.names(),
        callOtherwise: (from, to) => callOtherwise.call(served, from, to),
        requireName: (given) => (served.requireName ? served.requireName(given) : requireName(given, is.words)),
      }),
    );
  if (copy)
    on('copy', async (name, { body: { to }, who }) => {
      await copy.call(served, name, to, who);
      return { name: to };
    });
  on('uses', (name) => ({ items: objects.usesOf(what, name) }));
  on('remove', (name, { who, query }) => {
    const { gather, words } = served.beforeRemoval?.(name, who) ?? {};
    // The query is that of removing: its name alone says so.
    const { force } = query as { force: boolean };
    return objects.remove(what, name, { by: who.name, force, ...(words && { words }) }, gather);
  });
  if (plain) servePlain(derived, served, plain);
}

function servePlain(api: DerivedApi, { is }: ServedResource, plain: PlainStore): void {
  api.on(`list${capital(is.plural)}`, ({ query }) => {
    const { search } = query as { search?: string };
    return { items: plain.list().filter(({ name }) => fits(search, name)) };
  });
  api.on(`get${capital(is.name)}`, (call) => plain.find(call.param('name')));
  api.on(`save${capital(is.name)}`, (call) => plain.save(call.param('name'), { ...call.body }, call.who.name));
}
