import type { References } from '@pindro/core';
import type { z } from 'zod';
import type { Role } from '../roles.js';

/** Verbs that any type of resource can have. */
export const VERBS = ['rename', 'copy', 'uses', 'remove'] as const;
export type Verb = (typeof VERBS)[number];

/**
 * A type of resource. API routes, commands, console menus, search, removal, renaming, "used by", events and the
 * reference documentation derive from it.
 */
export interface ResourceDescriptor {
  /** Identifies the type in events, removals, search results and operation names, in the singular. */
  readonly name: string;
  /** Used in operation names and headings. */
  readonly plural: string;
  /** What one is called in a sentence. */
  readonly words: string;
  /** Address of one, below `/api/v1`; the last parameter identifies it. */
  readonly path: string;
  /** The least role that may create, change, remove or restore one. */
  readonly role: Role;
  /** The verbs that it has in the API, with their summary where the usual one says too little. */
  readonly verbs: { readonly [V in Verb]?: string | true };
  /** Verbs whose route takes or returns other values than the common one, and is declared with the other routes. */
  readonly own?: readonly Verb[];
  /** The command that creates one, after the noun. */
  readonly create?: string;
  /** Property of `References` under which steps of flows refer to it. */
  readonly inSteps?: keyof References;
  /** Types of resources that one of this type refers to, outside of the steps of flows. */
  readonly references?: readonly string[];
  /** Fields that nothing returns once they are stored. */
  readonly secrets?: readonly string[];
  /** Folders and files of an exported workspace that contain it. */
  readonly files?: readonly string[];
  /** Its page in the console; `NAME` stands for its name, `PARENT` for what it belongs to. */
  readonly page?: string;
  /** The page of the navigation that lists it. */
  readonly list?: string;
  /** Everything that a person sets, if it is a name with fields: then all its routes, commands and pages derive from them. */
  readonly fields?: z.ZodObject;
}

/** Descriptor of a resource that consists of a name and fields. */
export type PlainDescriptor = ResourceDescriptor & { readonly fields: z.ZodObject };

/**
 * Whether everything about a resource derives from its fields.
 * @param one descriptor of a resource
 * @returns true for a plain resource
 */
export const isPlain = (one: ResourceDescriptor): one is PlainDescriptor => one.fields !== undefined;

/** Keeps the literal types of a descriptor, from which the names of its operations derive. */
export const defineResource = <const D extends ResourceDescriptor>(descriptor: D): D => descriptor;

/**
 * Writes a name with a capital.
 * @param text a name
 * @returns the name with a capital, as in operation names: `Model`
 */
export const capital = <const T extends string>(text: T): Capitalize<T> =>
  (text.charAt(0).toUpperCase() + text.slice(1)) as Capitalize<T>;

/**
 * The name of the operation that does something with a resource: `renameModel`.
 * @param resource descriptor of the resource
 * @param verb of the operation
 * @returns the name of the route and of the client's function
 */
export const operationOf = ({ name }: ResourceDescriptor, verb: Verb): string =>
  verb === 'uses' ? `${name}Uses` : `${verb}${capital(name)}`;
