/*
 * The light entry, for the console: the client, words and types. The schemas stay out of it, so that a page does not wait
 * for what only the service needs.
 */

export { anchorOf } from './anchors.js';
export type * from './building-resources.js';
export { type Address, type Client, clientOf, ProblemError, UnreachableError } from './client.js';
export type * from './metrics.js';
export * from './parts.js';
export type * from './problems.js';
export type { Program, ProgramValue } from './program.js';
export * from './program-words.js';
export { capital, type ResourceDescriptor, type Verb } from './resource/descriptor.js';
export type { ResourceName } from './resource/list.js';
export type { Removal } from './resource/routes.js';
export { type PlainVerbs, plainVerbsOf, type ResourceVerbs, type SavedValue, verbsOf } from './resource/verbs.js';
export type * from './resources.js';
export { mayUse, ROLE_WORDS, ROLES, type Role, RUNS_PROGRAMS } from './roles.js';
export type { DocPage } from './routes/docs.js';
export type { Person } from './routes/people.js';
export type { Hit } from './routes/search.js';
export type { ProposalSummary, Workshop } from './routes/workshop.js';
export type { ServerLimits, ServerNetwork } from './server-limits.js';
export type * from './server-resources.js';
export type * from './serving-resources.js';
export type * from './stream.js';
export * from './transports.js';
export { KEY_GAP, WORKSHOP } from './words.js';
