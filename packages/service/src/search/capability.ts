import { defineCapability } from '../platform/capability.js';
import { hitsOf, SEARCHED } from './hits.js';

export const searchCapability = defineCapability({
  name: 'search',
  needs: SEARCHED,
  routes: (api, parts) => void api.on('search', ({ query }) => ({ items: hitsOf(query.words, query.limit, parts) })),
});
