import type { Api } from '../platform/api.js';
import { present } from './objects.js';
import type { Removals } from './removals.js';

export function removalRoutes(api: Api, removals: Removals): void {
  api.on('listRemovals', ({ who }) => ({
    items: removals
      .list()
      .filter(({ what }) => what !== 'person' || who.role === 'owner')
      .map(present),
  }));
  api.on('restoreRemoved', (call) => present(removals.restoreRemoved(call.param('id'), call.who)));
}
