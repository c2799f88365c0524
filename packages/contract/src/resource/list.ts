import { credential } from './credential.js';
import { isPlain, type PlainDescriptor, type ResourceDescriptor } from './descriptor.js';
import { document } from './document.js';
import { endpoint } from './endpoint.js';
import { entry } from './entry.js';
import { filter } from './filter.js';
import { flow } from './flow.js';
import { key } from './key.js';
import { label } from './label.js';
import { model } from './model.js';
import { person } from './person.js';
import { type ResourceRoutes, resourceRoutes } from './routes.js';
import { row } from './row.js';
import { sample } from './sample.js';
import { server } from './server.js';
import { table } from './table.js';
import { view } from './view.js';

/** All types of resources, by name. A new one is a file and a line here. */
export const RESOURCE = {
  flow,
  endpoint,
  server,
  model,
  credential,
  table,
  row,
  key,
  entry,
  person,
  document,
  sample,
  label,
  filter,
  view,
} as const satisfies Record<string, ResourceDescriptor>;

export type ResourceName = keyof typeof RESOURCE;
export const RESOURCE_NAMES = Object.keys(RESOURCE) as ResourceName[];
export const RESOURCES: readonly ResourceDescriptor[] = Object.values(RESOURCE);

/**
 * Finds the descriptor of a type of resource.
 * @param name of the type
 * @returns the descriptor of a type, or undefined if the name is not one of a resource
 */
export const resourceNamed = (name: string): ResourceDescriptor | undefined =>
  Object.hasOwn(RESOURCE, name) ? RESOURCE[name as ResourceName] : undefined;

/** Resources that consist of a name and fields. */
export const PLAIN: readonly PlainDescriptor[] = RESOURCES.filter(isPlain);

type PlainOne = Extract<(typeof RESOURCE)[ResourceName], PlainDescriptor>;
type AllOf<U> = (U extends unknown ? (one: U) => void : never) extends (all: infer I) => void ? I : never;
/** Distributes over the types of resources. */
type RoutesOf<D> = D extends ResourceDescriptor ? ResourceRoutes<D> : never;

/** The routes of plain resources. */
export const plainRoutes = Object.assign({}, ...PLAIN.map(resourceRoutes)) as AllOf<RoutesOf<PlainOne>>;
