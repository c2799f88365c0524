import { defineResource } from './descriptor.js';

export const row = defineResource({
  name: 'row',
  plural: 'rows',
  words: 'row',
  path: '/tables/:name/rows/:row',
  role: 'builder',
  verbs: { remove: 'Removes a row' },
  create: 'add',
  page: '/tables/PARENT?row=NAME',
});
