import { defineResource } from './descriptor.js';

export const credential = defineResource({
  name: 'credential',
  plural: 'credentials',
  words: 'credential',
  path: '/credentials/:name',
  role: 'builder',
  verbs: {
    rename: true,
    copy: 'Creates a credential with the same secret',
    uses: true,
    remove: 'Removes a credential',
  },
  create: 'add',
  inSteps: 'credentials',
  secrets: ['secret'],
  files: ['credentials.yaml'],
  page: '/credentials?open=NAME',
  list: '/credentials',
});
