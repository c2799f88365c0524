import { defineResource } from './descriptor.js';

export const key = defineResource({
  name: 'key',
  plural: 'keys',
  words: 'access key',
  path: '/keys/:id',
  role: 'builder',
  verbs: { remove: 'Removes a key from the list, and revokes it if it is still valid' },
  create: 'issue',
  references: ['endpoint', 'server', 'credential'],
  secrets: ['key'],
  files: ['keys.yaml'],
  page: '/keys?open=NAME',
  list: '/keys',
});
