import { defineCapability } from '../platform/capability.js';
import { USERS, usesOf } from '../usage.js';
import { FormerNames } from './former-names.js';
import { Objects } from './objects.js';
import { Removals } from './removals.js';
import { removalRoutes } from './routes.js';

declare module '../platform/capability.js' {
  interface Parts {
    former: FormerNames;
    removals: Removals;
    objects: Objects;
  }
}

export const objectsCapability = defineCapability({
  name: 'objects',
  needs: ['clocks', 'config'],
  later: USERS,
  gives: ['former', 'removals', 'objects'],
  open: (parts, later) => {
    const { config: database, bus, clocks } = parts;
    const former = new FormerNames(database, bus);
    const removals = new Removals(database, bus, clocks);
    const objects = new Objects({
      ...{ database, bus, former, removals },
      following: (...given) => later.flows.following(...given),
      usesOf: (what, name) => usesOf(what, former, name, later),
    });
    return { former, removals, objects };
  },
  routes: (api, { removals }) => removalRoutes(api, removals),
  listen: ({ removals }) => removals.start(),
  close: ({ removals }) => removals.close(),
});
