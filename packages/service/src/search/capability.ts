import type { Capability } from '../platform/capability.js';
import { hitsOf } from './hits.js';

export const searchCapability: Capability = {
  name: 'search',
  routes: (api, parts) => void api.on('search', ({ query }) => ({ items: hitsOf(query.words, query.limit, parts) })),
};
