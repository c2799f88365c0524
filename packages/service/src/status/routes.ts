import type { RunSummary } from '@pindro/contract';
import type { Api } from '../platform/api.js';
import type { Parts } from '../platform/capability.js';
import type { Thing } from '../platform/events.js';
import { presentRecord } from '../record/present.js';
import { VERSION } from '../version.js';

/** What the status tells of. */
export const STATUS_PARTS = [
  'runs',
  'runner',
  'journal',
  'retention',
  'flows',
  'endpoints',
  'servers',
  'models',
  'approvals',
  'problems',
] as const;
type StatusParts = Pick<Parts, (typeof STATUS_PARTS)[number] | 'bus' | 'settings' | 'address'>;

export function statusRoutes(api: Api, parts: StatusParts): void {
  const { runs, runner, journal, retention, flows, endpoints, servers, models, bus, approvals, problems } = parts;
  api.on('status', () => ({
    name: 'pindro',
    version: VERSION,
    url: parts.address(),
    ...runs.count(),
    flows: flows.drafts.names().length,
    endpoints: endpoints.names().length,
    servers: servers.list(),
    models: models.list(),
    mailbox: parts.settings.mailbox !== undefined,
    approvals: approvals.count(),
    problems: {
      open: problems.count(),
      returned: problems.list({ state: 'recurring', limit: 5 }).map(({ id, title }) => ({ id, title })),
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
