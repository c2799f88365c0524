export * from './building-resources.js';
export {
  type CallArguments,
  type Client,
  type ClientOptions,
  createClient,
  ProblemError,
  UnreachableError,
} from './client.js';
export { openApi } from './openapi.js';
export type { Person } from './people-routes.js';
export * from './resources.js';
export { mayUse, ROLE_WORDS, ROLES, type Role } from './roles.js';
export { type Route, type RouteName, routes } from './routes.js';
export * from './serving-resources.js';
export { type ProposalSummary, WORKSHOP, type Workshop } from './workshop-routes.js';
