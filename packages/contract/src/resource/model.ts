import { defineResource } from './descriptor.js';

export const model = defineResource({
  name: 'model',
  plural: 'models',
  words: 'model connection',
  path: '/models/:name',
  role: 'builder',
  verbs: {
    rename: true,
    copy: 'Creates a model connection with the same settings',
    uses: true,
    remove: 'Removes a model connection',
  },
  create: 'add',
  inSteps: 'models',
  references: ['credential', 'model'],
  files: ['models'],
  page: '/models?open=NAME',
  list: '/models',
});
