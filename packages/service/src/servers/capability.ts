import type { Capability } from '../platform/capability.js';
import { serverChatRoute } from './chat.js';
import { endLeftOver } from './programs/left-over.js';
import { serverRoutes } from './routes.js';
import { ServerStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    servers: ServerStore;
  }
}

export const serversCapability: Capability = {
  name: 'servers',
  open: ({ config, bus, credentials, outside, programs, former, settings }) => {
    endLeftOver(settings.data);
    const servers = new ServerStore(config, bus, credentials, outside, programs, former, settings);
    bus.on('changed', (what, name) => {
      if (what === 'credential') void servers.credentialChanged(name).catch(() => {});
    });
    return { servers };
  },
  routes: (api, { servers, models, runner, objects, programs, flows, endpoints, webFetch }) => {
    serverRoutes(api, servers, objects, programs, { flows, endpoints }, webFetch);
    serverChatRoute(api, { servers, models, runner });
  },
  listen: ({ servers }) => servers.start(),
  close: ({ servers }) => servers.close(),
};
