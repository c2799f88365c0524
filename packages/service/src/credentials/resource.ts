import { RESOURCE } from '@pindro/contract';
import { hitOf, type ServedResource } from '../platform/resources.js';
import { requireReader } from './routes.js';
import type { CredentialStore } from './store.js';

export const servedCredentials = (credentials: CredentialStore): ServedResource => ({
  is: RESOURCE.credential,
  names: () => credentials.names(),
  nameOf: (given) => credentials.summary(given, []).name,
  callOtherwise: (from, to) => credentials.callOtherwise(from, to),
  copy(from, to, who) {
    if (credentials.summary(from, []).source) requireReader(who);
    credentials.copy(from, to);
  },
  *hits() {
    for (const { name, account } of credentials.list(() => [])) yield hitOf(this.is, { name, about: account });
  },
});
