import { RESOURCE } from '@pindro/contract';
import { hitOf, type ServedResource } from '../platform/resources.js';
import type { Sessions } from './mcp/sessions.js';
import type { EndpointStore } from './store.js';

/** Its routes rename an endpoint, because the answer contains its new address. */
export const servedEndpoints = (endpoints: EndpointStore, sessions: Sessions): ServedResource => ({
  is: RESOURCE.endpoint,
  names: () => endpoints.names(),
  nameOf: (given) => endpoints.get(given).name,
  namesOf(name) {
    const known = endpoints.find(name);
    return known ? [known.name, ...known.formerly] : [name];
  },
  copy: (from, to) => void endpoints.copy(from, to),
  beforeRemoval(name) {
    endpoints.requireMade(name);
    return { gather: () => sessions.endOn(name) };
  },
  usersOf(what, name) {
    if (what === 'endpoint') return listening(sessions.on(name).length);
    const users = what === 'flow' ? endpoints.carrying(name) : what === 'server' ? endpoints.passingOn(name) : [];
    return users.map((one) => `endpoint "${one}"`);
  },
  *hits() {
    for (const name of endpoints.names()) {
      const { title, description } = endpoints.get(name);
      yield hitOf(this.is, { name, title: title ?? name, about: description ?? '' });
    }
  },
});

const listening = (count: number) => (count === 0 ? [] : [`${count} open session${count === 1 ? '' : 's'}`]);
