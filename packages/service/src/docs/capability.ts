import { didYouMean, PindroError } from '@pindro/core';
import { defineCapability } from '../platform/capability.js';
import { Library } from './library.js';

declare module '../platform/capability.js' {
  interface Parts {
    docs: Library;
  }
}

export const docsCapability = defineCapability({
  name: 'docs',
  gives: ['docs'],
  open: () => ({ docs: new Library() }),
  routes: (api, { docs }) => {
    api.on('listDocs', () => ({ items: docs.list().map(({ name, title, about }) => ({ name, title, about })) }));
    api.on('getDoc', ({ param }) => {
      const page = docs.find(param('name'));
      if (page) return page;
      const suggestion = didYouMean(
        param('name'),
        docs.list().map(({ name }) => name),
      );
      throw new PindroError('not_found', { what: 'page of the documentation', name: param('name'), suggestion });
    });
  },
});
