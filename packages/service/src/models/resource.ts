import { RESOURCE } from '@pindro/contract';
import { hitOf, type ServedResource } from '../platform/resources.js';
import type { ModelStore } from './store.js';

export const servedModels = (models: ModelStore): ServedResource => ({
  is: RESOURCE.model,
  names: () => models.names(),
  nameOf: (given) => models.summary(given).name,
  callOtherwise: (from, to) => models.callOtherwise(from, to),
  copy: (from, to) => models.copy(from, to),
  usersOf(what, name) {
    if (what === 'model') return models.leaningOn(name);
    return what === 'credential' ? models.usersOf(name) : [];
  },
  *hits() {
    for (const { name, model } of models.list()) yield hitOf(this.is, { name, about: model });
  },
});
