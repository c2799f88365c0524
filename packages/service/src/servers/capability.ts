import { defineCapability } from '../platform/capability.js';
import { serverChatRoute } from './calling/chat.js';
import { PastedReader } from './connection/reader.js';
import { endLeftOver } from './programs/left-over.js';
import { servedServers } from './resource.js';
import { ModelReview } from './review/model-review.js';
import { toolReviewRoutes } from './review/review-routes.js';
import { serverRoutes } from './routes.js';
import { ServerStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    servers: ServerStore;
    pastedReader: PastedReader;
  }
}

export const serversCapability = defineCapability({
  name: 'servers',
  needs: ['config', 'credentials', 'former', 'objects', 'outside', 'programs', 'webFetch'],
  later: ['endpoints', 'flows', 'models', 'runner'],
  gives: ['servers', 'pastedReader'],
  open: ({ config, bus, credentials, outside, programs, former, settings }) => {
    endLeftOver(settings.data);
    const servers = new ServerStore({
      ...{ database: config, bus, credentials, outside, programs, former },
      refreshEvery: settings.refreshEvery,
    });
    bus.on('changed', (what, name) => {
      if (what === 'credential') void servers.pool.credentialChanged(name).catch(() => {});
    });
    return { servers, pastedReader: new PastedReader() };
  },
  resources: ({ servers }) => [servedServers(servers)],
  routes: (
    api,
    { config, bus, servers, models, runner, objects, programs, flows, endpoints, webFetch, pastedReader },
  ) => {
    const users = { flows, endpoints };
    serverRoutes(api, servers, { objects, programs, users, fetch: webFetch, reader: pastedReader });
    const review = new ModelReview(config, bus, (name, question) => models.judge(name, question));
    servers.watch.review = review;
    toolReviewRoutes(api, review, (name) => models.summary(name).name);
    serverChatRoute(api, { servers, models, runner });
  },
  listen: ({ servers }) => servers.pool.start(),
  close: async ({ servers, pastedReader }) => {
    pastedReader.close();
    await servers.close();
  },
});
