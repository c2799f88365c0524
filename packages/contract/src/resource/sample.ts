import { defineResource } from './descriptor.js';

export const sample = defineResource({
  name: 'sample',
  plural: 'samples',
  words: 'saved input',
  path: '/flows/:name/samples/:sample',
  role: 'operator',
  verbs: {
    rename: true,
    copy: 'Copies a saved input under another name',
    remove: 'Removes a saved input',
  },
  create: 'save',
  list: '/flows',
});
