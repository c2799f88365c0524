import { plainRoutes } from '../resource/list.js';
import { approvals } from './approvals.js';
import { backups } from './backups.js';
import { credentials } from './credentials.js';
import { docs } from './docs.js';
import { documents } from './documents.js';
import { endpoints } from './endpoints.js';
import { entries } from './entries.js';
import { flows } from './flows.js';
import { keys } from './keys.js';
import { mailbox } from './mailbox.js';
import { memories } from './memories.js';
import { metricRoutes } from './metrics.js';
import { models } from './models.js';
import { removals } from './objects.js';
import { people } from './people.js';
import { problems } from './problems.js';
import type { Route } from './route.js';
import { runs } from './runs.js';
import { search } from './search.js';
import { servers } from './servers.js';
import { status } from './status.js';
import { tables } from './tables.js';
import { trials } from './trials.js';
import { values } from './values.js';
import { workshopRoutes } from './workshop.js';
import { workspace } from './workspace.js';

export type { Route };

/**
 * All operations of the API. The OpenAPI document, the typed client and the routes of the service derive from them.
 */
export const routes = {
  ...status,
  ...flows,
  ...trials,
  ...runs,
  ...problems,
  ...plainRoutes,
  ...docs,
  ...metricRoutes,
  ...approvals,
  ...entries,
  ...endpoints,
  ...keys,
  ...servers,
  ...credentials,
  ...memories,
  ...models,
  ...tables,
  ...documents,
  ...values,
  ...workspace,
  ...workshopRoutes,
  ...people,
  ...mailbox,
  ...removals,
  ...backups,
  ...search,
} as const satisfies Record<string, Route>;

export type RouteName = keyof typeof routes;
