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
export * from './resources.js';
export { type Route, type RouteName, routes } from './routes.js';
export * from './serving-resources.js';
