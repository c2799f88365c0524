import type { EntrySettings, WayIn } from '@pindro/contract';
import { PindroError } from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { Api } from '../platform/api.js';
import { type EntryRecord, type EntryStore, nextDue } from './store.js';

const iso = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());

interface Parts {
  store: EntryStore;
  flows: FlowStore;
  address(): string;
}

/** What a way in gives a flow, as far as it is known; null: whatever the caller sends. */
export function waysInto(store: EntryStore, flow: string): { name: string; gives: string[] | null }[] {
  return store.list(flow).flatMap(({ kind, path, settings }) => {
    if (settings.kind === 'form') return [];
    const name = kind === 'schedule' ? `the schedule "${(settings as { cron: string }).cron}"` : `${kind} "${path}"`;
    const gives =
      settings.kind === 'schedule' ? Object.keys(settings.input) : settings.kind === 'chat' ? ['message'] : null;
    return [{ name, gives }];
  });
}

export function entryRoutes(api: Api, { store, flows, address }: Parts): void {
  const present = (entry: EntryRecord): WayIn => ({
    id: entry.id,
    flow: entry.flow,
    path: entry.path,
    on: entry.on,
    url: entry.kind === 'schedule' ? null : `${address()}/${entry.kind}s/${entry.path}`,
    settings: entry.settings,
    secret: entry.sealed !== null,
    usedAt: iso(entry.usedAt),
    nextAt: entry.settings.kind === 'schedule' && entry.on ? nextDue(entry.settings, new Date()).toISOString() : null,
    trouble: flows.get(entry.flow).live === null ? 'The flow is not published yet; publish it to open this way.' : null,
  });
  api.on('listEntries', ({ query }) => ({ items: store.list(query.flow).map(present) }));
  api.on('addEntry', ({ body }) => {
    requireFit(body.settings, body.flow, flows);
    const { entry, secret } = store.add(body);
    return { ...present(entry), newSecret: secret };
  });
  api.on('changeEntry', (call) => {
    const entry = store.get(call.param('id'));
    if (call.body.settings) requireFit(call.body.settings, entry.flow, flows);
    return present(store.change(entry.id, call.body));
  });
  api.on('removeEntry', (call) => {
    store.remove(call.param('id'));
    return { done: true };
  });
}

/** A chat needs a flow that takes a message. */
function requireFit(settings: EntrySettings, flow: string, flows: FlowStore): void {
  const { document } = flows.get(flow);
  const properties = (document.input?.properties ?? {}) as object;
  if (settings.kind === 'chat' && !('message' in properties))
    throw new PindroError(
      'request_invalid',
      { why: `Flow "${flow}" takes no "message", which is what a chat gives` },
      { at: '/settings/kind' },
    );
}
