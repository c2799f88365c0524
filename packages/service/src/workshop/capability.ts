import type { BuiltIn } from '../endpoints/built-in.js';
import { defineCapability } from '../platform/capability.js';
import { WorkshopEndpoint } from './built-in.js';
import { ProposalStore } from './proposals.js';
import { workshopRoutes } from './routes.js';
import { WorkshopStore } from './store.js';
import type { WorkshopParts } from './tools/tool.js';

declare module '../platform/capability.js' {
  interface Parts {
    workshopParts: WorkshopParts;
    /** Endpoints that Pindro brings along. */
    builtIns: readonly BuiltIn[];
  }
}

export const workshopCapability = defineCapability({
  name: 'workshop',
  needs: ['checker', 'config', 'endpoints', 'entries', 'flows', 'runner', 'runs', 'sessions', 'surroundings'],
  gives: ['workshopParts', 'builtIns'],
  open: ({ config, bus, flows, endpoints, entries, runs, runner, checker, surroundings, address }) => {
    const workshopParts: WorkshopParts = {
      workshop: new WorkshopStore(config, bus, flows.drafts),
      proposals: new ProposalStore(config, bus),
      ...{ flows, endpoints, entries, runs, runner, checker, surroundings, address },
    };
    return { workshopParts, builtIns: [new WorkshopEndpoint(workshopParts)] };
  },
  routes: (api, { workshopParts, sessions }) => workshopRoutes(api, workshopParts, sessions),
});
