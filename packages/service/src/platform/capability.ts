import type { Masker } from '@pindro/core';
import type { Express } from 'express';
import type { Api } from './api.js';
import type { Bus } from './events.js';
import type { Logger } from './log.js';
import type { Settings } from './settings.js';

/**
 * What the capabilities of the service have made so far. Each adds its own parts here, beside itself:
 * `declare module '../platform/capability.js' { interface Parts { … } }`.
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
  /** Begins what it does by itself, once everything is open. @throws what keeps the service from starting */
  listen?(parts: Parts): void | Promise<void>;
  /** Lets what it does come to its end, and lets go of what it holds. */
  close?(parts: Parts): void | Promise<void>;
}
