import { defineResource } from './descriptor.js';

export const flow = defineResource({
  name: 'flow',
  plural: 'flows',
  words: 'flow',
  path: '/flows/:name',
  role: 'builder',
  verbs: {
    rename: true,
    copy: 'Creates a draft under another name from the draft of a flow',
    uses: true,
    remove: 'Removes a flow; its runs remain readable',
  },
  create: 'create',
  inSteps: 'flows',
  files: ['flows', 'live'],
  page: '/flows/NAME',
  list: '/flows',
});
