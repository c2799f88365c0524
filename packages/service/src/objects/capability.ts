import { defineCapability } from '../platform/capability.js';
import { FormerNames } from './former-names.js';
import { Objects } from './objects.js';
import { Removals } from './removals.js';
import { removalRoutes } from './routes.js';
import { serveResource } from './verbs.js';

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
  later: ['flows'],
  gives: ['former', 'removals', 'objects'],
  open: (parts, later) => {
    const { config: database, bus, clocks, resources } = parts;
    const former = new FormerNames(database, bus);
    const removals = new Removals(database, bus, clocks);
    const objects = new Objects({
      ...{ database, bus, former, removals },
      following: (...given) => later.flows.drafts.following(...given),
      usesOf: (what, name) => {
        const names = resources.find(what)?.namesOf?.(name) ?? former.namesOf(what, name);
        const present = names[0] ?? name;
        return resources.all().flatMap((one) => one.usersOf?.(what, present, names) ?? []);
      },
    });
    return { former, removals, objects };
  },
  routes: (api, { objects, removals, resources }) => {
    removalRoutes(api, removals);
    for (const served of resources.all()) serveResource(api, objects, served);
  },
  listen: ({ removals }) => removals.start(),
  close: ({ removals }) => removals.close(),
});
