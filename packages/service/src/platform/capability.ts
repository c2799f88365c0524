import type { Masker } from '@pindro/core';
import type { Express } from 'express';
import type { Api } from './api.js';
import type { Bus } from './events.js';
import type { Logger } from './log.js';
import type { ResourceRegistry, ServedResource } from './resources.js';
import type { Settings } from './settings.js';

/**
 * Every part that some capability makes. Each declares its own next to itself: `declare module
 * '../platform/capability.js' { interface Parts { … } }`.
 */
export interface Parts {
  settings: Settings;
  bus: Bus;
  log: Logger;
  /** Knows every secret of the workspace; what leaves a run or goes into the log passes it. */
  masker: Masker;
  /** Every type of resource; filled once all capabilities are open. */
  resources: ResourceRegistry;
  /** Where the service is reached, without a slash at the end; known once it listens. */
  address(): string;
}

export type PartName = keyof Parts;

/** Parts that the service itself makes, before any capability. */
export const BASE_PARTS = [
  'settings',
  'bus',
  'log',
  'masker',
  'resources',
  'address',
] as const satisfies readonly PartName[];
type BasePart = (typeof BASE_PARTS)[number];

/**
 * Something that the service can do, with the parts that it needs. It receives these and no others.
 * @typeParam Needs parts of capabilities that are opened before it
 * @typeParam Later parts of capabilities that are opened after it
 * @typeParam Gives parts that it makes
 */
interface Declared<Needs extends PartName, Later extends PartName, Gives extends PartName> {
  readonly name: string;
  readonly needs?: readonly Needs[];
  readonly later?: readonly Later[];
  readonly gives?: readonly Gives[];
  /**
   * Makes its parts.
   * @param later parts that are there only once everything is open, so that only functions may read them
   */
  open?: (parts: Pick<Parts, Needs | BasePart>, later: Pick<Parts, Later>) => Pick<Parts, Gives>;
  /** The types of resources that it serves: what is common to all types is done for it. */
  resources?: (parts: Pick<Parts, Needs | Later | Gives | BasePart>) => readonly ServedResource[];
  /** Serves its routes of the API's contract. */
  routes?: (api: Api, parts: Pick<Parts, Needs | Later | Gives | BasePart>) => void;
  /** Serves what stands outside of the API. */
  pages?: (app: Express, parts: Pick<Parts, Needs | Later | Gives | BasePart>) => void;
  /** Starts background work once everything is open. @throws what prevents startup */
  listen?: (parts: Pick<Parts, Needs | Later | Gives | BasePart>) => void | Promise<void>;
  /** Finishes its work and releases its resources. */
  close?: (parts: Pick<Parts, Needs | Later | Gives | BasePart>) => void | Promise<void>;
}

/** A capability as the service runs it: a folder of its own, and one line in `main/capabilities.ts`. */
export interface Capability extends Omit<Declared<PartName, PartName, PartName>, 'open'> {
  open?: (parts: Parts, later: Parts) => Partial<Parts>;
}

/** Declares a capability. The types of its functions know the parts that it names and no others. */
export function defineCapability<
  const Needs extends PartName = never,
  const Later extends PartName = never,
  const Gives extends PartName = never,
>(declared: Declared<Needs, Later, Gives>): Capability {
  return declared;
}
