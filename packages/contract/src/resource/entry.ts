import { defineResource } from './descriptor.js';

export const entry = defineResource({
  name: 'entry',
  plural: 'entries',
  words: 'entry point',
  path: '/entries/:id',
  role: 'builder',
  verbs: { remove: 'Removes an entry point' },
  create: 'hook',
  references: ['flow'],
  secrets: ['secret'],
  files: ['entries'],
  page: '/flows/PARENT?view=ways',
  list: '/flows',
});
