import type { Capability } from '../platform/capability.js';
import { tableRoutes } from './routes.js';
import { TableStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    tables: TableStore;
  }
}

export const tablesCapability: Capability = {
  name: 'tables',
  open: ({ config, bus }) => ({ tables: new TableStore(config, bus) }),
  routes: (api, { tables }) => tableRoutes(api, tables),
  close: ({ tables }) => tables.close(),
};
