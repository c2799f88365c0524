import { approvalsCapability } from '../approvals/capability.js';
import { backupsCapability } from '../backups/capability.js';
import { conversationsCapability } from '../conversations/capability.js';
import { credentialsCapability } from '../credentials/capability.js';
import { docsCapability } from '../docs/capability.js';
import { documentsCapability } from '../documents/capability.js';
import { endpointsCapability } from '../endpoints/capability.js';
import { entriesCapability } from '../entries/capability.js';
import { filtersCapability } from '../filters/capability.js';
import { flowsCapability } from '../flows/capability.js';
import { keysCapability } from '../keys/capability.js';
import { mailboxCapability } from '../mailbox/capability.js';
import { metricsCapability } from '../metrics/capability.js';
import { modelsCapability } from '../models/capability.js';
import { objectsCapability } from '../objects/capability.js';
import { peopleCapability } from '../people/capability.js';
import type { Capability } from '../platform/capability.js';
import { databaseCapability } from '../platform/database/capability.js';
import { reachCapability } from '../platform/reach/capability.js';
import { problemsCapability } from '../problems/capability.js';
import { recordCapability } from '../record/capability.js';
import { runsCapability } from '../runs/capability.js';
import { scriptsCapability } from '../scripts/capability.js';
import { searchCapability } from '../search/capability.js';
import { serversCapability } from '../servers/capability.js';
import { statusCapability } from '../status/capability.js';
import { tablesCapability } from '../tables/capability.js';
import { trialsCapability } from '../trials/capability.js';
import { valuesCapability } from '../values/capability.js';
import { viewsCapability } from '../views/capability.js';
import { workshopCapability } from '../workshop/capability.js';
import { workspaceCapability } from '../workspace/capability.js';
import { httpCapability } from './http.js';

/** All that the service can do. Opened and begun in this order, closed in the opposite one. */
export const CAPABILITIES: readonly Capability[] = [
  databaseCapability,
  objectsCapability,
  credentialsCapability,
  recordCapability,
  httpCapability,
  reachCapability,
  keysCapability,
  peopleCapability,
  tablesCapability,
  serversCapability,
  modelsCapability,
  flowsCapability,
  endpointsCapability,
  approvalsCapability,
  conversationsCapability,
  scriptsCapability,
  trialsCapability,
  runsCapability,
  problemsCapability,
  filtersCapability,
  metricsCapability,
  viewsCapability,
  entriesCapability,
  docsCapability,
  documentsCapability,
  workshopCapability,
  workspaceCapability,
  backupsCapability,
  mailboxCapability,
  valuesCapability,
  searchCapability,
  statusCapability,
];
