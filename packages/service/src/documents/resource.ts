import { RESOURCE } from '@pindro/contract';
import type { ServedResource } from '../platform/resources.js';
import type { DocumentStore } from './store.js';

export const servedDocuments = (documents: DocumentStore): ServedResource => ({
  is: RESOURCE.document,
  names: () => documents.names(),
  nameOf: (given) => documents.get(given).name,
  callOtherwise: (from, to) => documents.callOtherwise(from, to),
  usersOf: (what, name) => (what === 'credential' ? documents.usersOf(name) : []),
});
