import { RESOURCE } from '@pindro/contract';
import { hitOf, type ServedResource } from '../platform/resources.js';
import { permitKeys } from '../policy/keys.js';
import type { KeyStore } from './store.js';

export const servedKeys = (keys: KeyStore): ServedResource => ({
  is: RESOURCE.key,
  names: () => keys.list().map(({ id }) => id),
  nameOf: (given) => keys.summary(given).id,
  beforeRemoval(id, who) {
    keys.requireCovered(id, permitKeys(who));
    return { words: keys.summary(id).name };
  },
  usersOf(what, name) {
    if (what === 'server') return keys.usersOfServer(name);
    if (what === 'endpoint') return keys.opening(name);
    return what === 'credential' ? keys.usersOf(name) : [];
  },
  *hits() {
    for (const { id, name, caller } of keys.list())
      yield hitOf(this.is, { name: id, title: name, about: `for ${caller}` });
  },
});
