import { mayUse, type Role } from '@pindro/contract';
import { PindroError } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { Thing } from '../platform/events.js';
import { present } from './objects.js';
import type { Removals } from './removals.js';

/** Who may put back what: whoever may take it out. */
const NEEDED: Partial<Record<Thing, Role>> = { person: 'owner', sample: 'operator' };

export function removalRoutes(api: Api, removals: Removals): void {
  api.on('listRemovals', ({ who }) => ({
    items: removals
      .list()
      .filter(({ what }) => what !== 'person' || who.role === 'owner')
      .map(present),
  }));
  api.on('putBack', (call) => {
    const id = call.param('id');
    const removal = removals.list().find((one) => one.id === id);
    const needed = (removal && NEEDED[removal.what]) ?? 'builder';
    if (removal && !mayUse(call.who.role, needed))
      throw new PindroError('role_too_low', { name: call.who.name, role: call.who.role, needed });
    return present(removals.putBack(id));
  });
}
