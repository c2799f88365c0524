export { anchorOf } from './anchors.js';
export * from './building-resources.js';
export {
  type CallArguments,
  type Client,
  type ClientOptions,
  ProblemError,
  UnreachableError,
} from './client.js';
export { CONSOLE_PAGES } from './console-pages.js';
export { FORMER_PATHS, withPresentNames } from './former.js';
export { createClient } from './full-client.js';
export * from './metrics.js';
export { openApi } from './openapi.js';
export * from './parts.js';
export * from './problems.js';
export {
  type Program,
  type ProgramFile,
  type ProgramFingerprint,
  type ProgramValue,
  program,
  programFingerprint,
} from './program.js';
export * from './program-words.js';
export {
  capital,
  isPlain,
  operationOf,
  type PlainDescriptor,
  type ResourceDescriptor,
  VERBS,
  type Verb,
} from './resource/descriptor.js';
export { PLAIN, RESOURCE, RESOURCES, type ResourceName, resourceNamed } from './resource/list.js';
export { fieldsSchemaOf, type Removal, resourceRoutes } from './resource/routes.js';
export { type PlainVerbs, plainVerbsOf, type ResourceVerbs, type SavedValue, verbsOf } from './resource/verbs.js';
export * from './resources.js';
export { mayUse, ROLE_WORDS, ROLES, type Role, RUNS_PROGRAMS } from './roles.js';
export type { DocPage } from './routes/docs.js';
export { type Route, type RouteName, routes } from './routes/index.js';
export type { Person } from './routes/people.js';
export type { Hit } from './routes/search.js';
export type { ProposalSummary, Workshop } from './routes/workshop.js';
export {
  DEFAULT_LIMITS,
  type ServerLimits,
  type ServerNetwork,
  serverLimits,
  serverNetwork,
} from './server-limits.js';
export * from './server-resources.js';
export * from './serving-resources.js';
export * from './stream.js';
export * from './transports.js';
export { KEY_GAP, WORKSHOP } from './words.js';
