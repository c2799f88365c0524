import { RESOURCE } from '@pindro/contract';
import type { ServedResource } from '../platform/resources.js';
import type { PeopleStore } from './store.js';

export const servedPeople = (people: PeopleStore): ServedResource => ({
  is: RESOURCE.person,
  names: () => people.names(),
  nameOf: (given) => people.get(given).name,
  callOtherwise: (from, to) => people.callOtherwise(from, to),
  beforeRemoval(name) {
    people.requireRemovable(name);
    return {};
  },
});
