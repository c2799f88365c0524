import { defineResource } from './descriptor.js';

export const document = defineResource({
  name: 'document',
  plural: 'documents',
  words: 'OpenAPI document',
  path: '/documents/:name',
  role: 'builder',
  verbs: {
    rename: true,
    remove: 'Removes a document; the flows created from it remain',
  },
  create: 'import',
  references: ['flow', 'credential'],
  files: ['documents'],
  list: '/flows',
});
