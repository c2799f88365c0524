import { defineResource } from './descriptor.js';

export const label = defineResource({
  name: 'label',
  plural: 'labels',
  words: 'label',
  path: '/labels/:name',
  role: 'builder',
  verbs: {
    rename: true,
    remove: 'Removes a label from every flow',
  },
  own: ['remove'],
  create: 'add',
  list: '/flows',
});
