import { defineResource } from './descriptor.js';

export const server = defineResource({
  name: 'server',
  plural: 'servers',
  words: 'tool server',
  path: '/servers/:name',
  role: 'builder',
  verbs: {
    rename: true,
    copy: 'Attaches the same tool server under another name',
    uses: true,
    remove: 'Detaches a tool server',
  },
  create: 'attach',
  inSteps: 'servers',
  references: ['credential'],
  files: ['servers'],
  page: '/servers/NAME',
  list: '/servers',
});
