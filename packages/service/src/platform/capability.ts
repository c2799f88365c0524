import type { Masker } from '@pindro/core';
import type { Express } from 'express';
import type { Api } from './api.js';
import type { Bus } from './events.js';
import type { Logger } from './log.js';
import type { Settings } from './settings.js';

/**
 * Parts that the capabilities have created so far. Each declares its own next to itself: `declare module
 * '../platform/capability.js' { interface Parts { … } }`.
 */
export interface Parts {
  settings: Settings;
  bus: Bus;
  log: Logger;
  /** Knows every secret of the workspace; what leaves a run or goes into the log passes it. */
  masker: Masker;
  /** Where the service is reached, without a slash at the end; known once it listens. */
  address(): string;
}

/**
 * Something that the service can do: a folder of its own, and one line in `main/capabilities.ts`. They are opened in the
 * order of that list and closed in the opposite one, so that each finds open what it rests on.
 */
export interface Capability {
  readonly name: string;
  /** Makes its parts. Those of later capabilities are there only once all are open, so that only functions may use them. */
  open?(parts: Parts): Partial<Parts>;
  /** Serves its routes of the API's contract. */
  routes?(api: Api, parts: Parts): void;
  /** Serves what stands outside of the API. */
  pages?(app: Express, parts: Parts): void;
  /** Starts background work once everything is open. @throws what prevents startup */
  listen?(parts: Parts): void | Promise<void>;
  /** Finishes its work and releases its resources. */
  close?(parts: Parts): void | Promise<void>;
}
