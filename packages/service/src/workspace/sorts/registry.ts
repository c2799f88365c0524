import { credentials } from './credentials.js';
import { documents } from './documents.js';
import { endpoints } from './endpoints.js';
import { entries } from './entries.js';
import { flows, live } from './flows.js';
import { keys } from './keys.js';
import { models } from './models.js';
import { names } from './names.js';
import { people } from './people.js';
import { plainSorts } from './plain.js';
import { servers } from './servers.js';
import type { Sort } from './sort.js';
import { rows, tables } from './tables.js';
import { workshop } from './workshop.js';

/** Every type of workspace file, in import order: referenced things first. */
export const SORTS: readonly Sort[] = [
  names,
  credentials,
  tables,
  rows,
  servers,
  models,
  flows,
  live,
  endpoints,
  entries,
  documents,
  workshop,
  keys,
  people,
  ...plainSorts,
];

/** The sort of a file by its path, and the name that the path gives it. */
export function thingType(path: string): { sort: Sort; name: string | null } | null {
  const whole = SORTS.find(({ at }) => at === path);
  if (whole) return { sort: whole, name: null };
  const [, folder, name] = /^([a-z]+)\/([a-z][a-z0-9-]*)\.(?:ya?ml|json)$/.exec(path) ?? [];
  const sort = SORTS.find(({ at }) => at === folder);
  return sort && name !== undefined ? { sort, name } : null;
}
