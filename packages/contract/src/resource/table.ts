import { defineResource } from './descriptor.js';

export const table = defineResource({
  name: 'table',
  plural: 'tables',
  words: 'table',
  path: '/tables/:name',
  role: 'builder',
  verbs: {
    rename: true,
    copy: 'Creates a table with the same columns, and optionally the same rows',
    uses: true,
    remove: 'Removes a table with its rows',
  },
  own: ['copy'],
  create: 'create',
  inSteps: 'tables',
  files: ['tables', 'rows'],
  page: '/tables/NAME',
  list: '/tables',
});
