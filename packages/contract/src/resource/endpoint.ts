import { defineResource } from './descriptor.js';

export const endpoint = defineResource({
  name: 'endpoint',
  plural: 'endpoints',
  words: 'endpoint',
  path: '/endpoints/:name',
  role: 'builder',
  verbs: {
    rename: 'Renames an endpoint; its former address still works',
    copy: 'Creates an endpoint with the same tools and descriptions',
    uses: true,
    remove: 'Removes an endpoint and ends its sessions',
  },
  // Its new address is part of the answer.
  own: ['rename'],
  create: 'create',
  inSteps: 'endpoints',
  references: ['flow', 'server'],
  files: ['endpoints'],
  page: '/endpoints/NAME',
  list: '/endpoints',
});
