import { defineCapability } from '../platform/capability.js';
import { FilterStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    filters: FilterStore;
  }
}

/** Filters of runs that are kept under a name. */
export const filtersCapability = defineCapability({
  name: 'filters',
  needs: ['config'],
  gives: ['filters'],
  open: ({ config }) => ({ filters: new FilterStore(config) }),
  routes: (api, { filters, bus }) => {
    api.on('listFilters', () => ({ items: filters.list() }));
    api.on('saveFilter', (call) => {
      const kept = filters.save(call.param('name'), call.body.query, call.who.name);
      bus.changed('filter', kept.name);
      return kept;
    });
    api.on('removeFilter', (call) => {
      filters.remove(call.param('name'));
      bus.changed('filter', call.param('name'));
      return { done: true };
    });
  },
});
