import { type Hit, type ResourceDescriptor, type ResourceName, resourceNamed } from '@pindro/contract';
import type { Who } from './api.js';
import type { Gather, Thing } from './events.js';

/** What a removal calls the thing, and what goes with it. */
export interface RemovalPlan {
  /** What people call it, where its name is an ID. */
  words?: string;
  gather?: (parts: Gather) => void;
}

/** A type of resource as a capability serves it: what the verbs that are common to all types need of it. */
export interface ServedResource {
  readonly is: ResourceDescriptor;
  /** The present name of one, by any of its names, or its ID. @throws not_found */
  nameOf(given: string): string;
  /** Present names, which nothing else of the type may take. */
  names(): string[];
  /** All names of one, the present one first; by default those of the register of former names. */
  namesOf?(name: string): string[];
  /** Gives the row its new name; what refers to it is updated elsewhere. Without it, its routes rename it. */
  callOtherwise?(from: string, to: string): void;
  /** @throws request_invalid where the name is not fit; by default names follow the common rule */
  requireName?(name: string): void;
  /** @throws not_found, already_there */
  copy?(from: string, to: string, who: Who): void | Promise<void>;
  /** What has to hold before it is removed, and what goes with it. @throws whatever forbids it */
  beforeRemoval?(name: string, who: Who): RemovalPlan;
  /** What of this type refers to a thing, in words: `endpoint "huts"`. @param names all names of the thing, the present one among them */
  usersOf?(what: Thing, name: string, names: readonly string[]): string[];
  /** What a search looks through. */
  hits?(): Iterable<Hit>;
  /** A plain resource: a name with fields. */
  readonly plain?: PlainStore;
}

/** What the routes of a plain resource need. */
export interface PlainStore {
  list(): SavedValue[];
  find(name: string): SavedValue;
  save(name: string, fields: Record<string, unknown>, by: string): SavedValue;
}
export interface SavedValue {
  name: string;
  /** Who saved it. */
  by: string;
  at: string;
  [field: string]: unknown;
}

/** Every type of resource that is served, in the order of the capabilities. */
export class ResourceRegistry {
  readonly #served = new Map<string, ServedResource>();

  /** @throws Error if a type is served twice */
  add(served: readonly ServedResource[]): void {
    for (const one of served) {
      if (this.#served.has(one.is.name)) throw new Error(`Two capabilities serve the resource "${one.is.name}"`);
      this.#served.set(one.is.name, one);
    }
  }

  all(): ServedResource[] {
    return [...this.#served.values()];
  }

  find(name: string): ServedResource | undefined {
    return this.#served.get(name);
  }
}

/** A hit of a search for a thing of a type. */
export const hitOf = (
  is: ResourceDescriptor,
  {
    name,
    title = name,
    about = '',
    within = null,
  }: { name: string; title?: string; about?: string; within?: string | null },
): Hit => ({ sort: is.name as ResourceName, name, title, about, in: within });

/** What a type of thing is called in a sentence. */
export const wordsOf = (what: Thing): string => resourceNamed(what)?.words ?? what;
