import type { RunSummary } from '@pindro/contract';
import type { ApprovalStore } from '../approvals/store.js';
import type { EndpointStore } from '../endpoints/store.js';
import type { FlowStore } from '../flows/store.js';
import type { ModelStore } from '../models/store.js';
import type { Api } from '../platform/api.js';
import type { Bus, Thing } from '../platform/events.js';
import type { ProblemStore } from '../problems/store.js';
import { presentRecord } from '../record/present.js';
import type { Retention } from '../record/retention.js';
import type { SqliteJournal } from '../record/sqlite-journal.js';
import type { Runner } from '../runs/runner.js';
import type { RunStore } from '../runs/store.js';
import type { ServerStore } from '../servers/store.js';

interface Parts {
  version: string;
  address(): string;
  runs: RunStore;
  runner: Runner;
  journal: SqliteJournal;
  retention: Retention;
  flows: FlowStore;
  endpoints: EndpointStore;
  servers: ServerStore;
  models: ModelStore;
  bus: Bus;
  mailbox: boolean;
  approvals: ApprovalStore;
  problems: ProblemStore;
}

export function statusRoutes(
  api: Api,
  {
    version,
    address,
    runs,
    runner,
    journal,
    retention,
    flows,
    endpoints,
    servers,
    models,
    bus,
    mailbox,
    approvals,
    problems,
  }: Parts,
): void {
  api.on('status', () => ({
    name: 'pindro',
    version,
    url: address(),
    ...runs.count(),
    flows: flows.names().length,
    endpoints: endpoints.names().length,
    servers: servers.list(),
    models: models.list(),
    mailbox,
    approvals: approvals.count(),
    problems: {
      open: problems.count(),
      returned: problems.list({ state: 'returned', limit: 5 }).map(({ id, title }) => ({ id, title })),
    },
    queued: runner.places.queued,
    trouble: journal.trouble?.message ?? null,
    record: presentRecord(retention.state()),
  }));

  api.stream('events', async ({ signal }, send) => {
    const onChanged = (what: Thing, name: string) => send({ type: 'changed', what, name });
    const onRun = (run: RunSummary) => send({ type: 'run', run });
    bus.on('changed', onChanged);
    bus.on('run', onRun);
    await new Promise((resolve) => signal.addEventListener('abort', resolve, { once: true }));
    bus.off('changed', onChanged);
    bus.off('run', onRun);
  });
}
