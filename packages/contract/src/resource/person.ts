import { defineResource } from './descriptor.js';

export const person = defineResource({
  name: 'person',
  plural: 'people',
  words: 'person',
  path: '/people/:name',
  role: 'owner',
  verbs: {
    rename: true,
    remove: 'Removes a person and ends their sessions',
  },
  create: 'add',
  secrets: ['password'],
  files: ['people.yaml'],
  list: '/people',
});
