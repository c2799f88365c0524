import { RESOURCE } from '@pindro/contract';
import { hitOf, type ServedResource } from '../platform/resources.js';
import { requireRunner } from './routes.js';
import type { ServerStore } from './store.js';

export const servedServers = (servers: ServerStore): ServedResource => ({
  is: RESOURCE.server,
  names: () => servers.names(),
  nameOf: (given) => servers.summary(given).name,
  callOtherwise: (from, to) => servers.callOtherwise(from, to),
  copy(from, to, who) {
    if (servers.summary(from).program) requireRunner(who);
    servers.copy(from, to);
  },
  usersOf: (what, name) => (what === 'credential' ? servers.repository.usersOf(name) : []),
  *hits() {
    for (const { name, about } of servers.list()) {
      yield hitOf(this.is, { name, about });
      for (const tool of servers.repository.tools(name))
        yield { ...hitOf(this.is, { name: tool.name, about: tool.description ?? '', within: name }), sort: 'tool' };
    }
  },
});
