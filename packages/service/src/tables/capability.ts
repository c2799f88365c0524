import { defineCapability } from '../platform/capability.js';
import { servedTables } from './resource.js';
import { tableRoutes } from './routes.js';
import { TableStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    tables: TableStore;
  }
}

export const tablesCapability = defineCapability({
  name: 'tables',
  needs: ['config', 'former', 'objects'],
  later: ['flows'],
  gives: ['tables'],
  open: ({ config, bus, former }) => ({ tables: new TableStore(config, bus, former) }),
  resources: ({ tables }) => [servedTables(tables)],
  routes: (api, { tables, objects, flows }) =>
    tableRoutes(api, {
      ...{ store: tables, objects },
      followColumns: (table, names) => flows.drafts.followingColumns(tables.definitions.namesOf(table), names),
    }),
  close: ({ tables }) => tables.close(),
});
