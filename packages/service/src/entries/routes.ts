import type { EntryPoint, EntrySettings } from '@pindro/contract';
import { inputSchema, type JsonObject, PindroError, sentence, validate } from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import { nextDue } from './cron.js';
import type { EntryRecord, EntryStore } from './store.js';

const iso = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());

interface Parts {
  store: EntryStore;
  flows: FlowStore;
  address(): string;
}

/** What an entry point supplies to a flow, as far as it is known; null: whatever the caller sends. */
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
  const present = (entry: EntryRecord): EntryPoint => ({
    id: entry.id,
    flow: entry.flow,
    path: entry.path,
    on: entry.on,
    url: entry.kind === 'schedule' ? null : `${address()}/${entry.kind}s/${entry.path}`,
    settings: entry.settings,
    secret: entry.sealed !== null,
    usedAt: iso(entry.usedAt),
    nextAt: entry.settings.kind === 'schedule' && entry.on ? nextDue(entry.settings, new Date()).toISOString() : null,
    trouble:
      flows.drafts.get(entry.flow).live === null
        ? 'The flow is not published; publish it to open this entry point.'
        : null,
  });
  api.on('listEntries', ({ query }) => ({
    items: store
      .list(query.flow === undefined ? undefined : flows.drafts.nameOf(query.flow))
      .filter((one) => fits(query.search, one.id, one.flow, one.kind, one.path))
      .map(present),
  }));
  api.on('getEntry', (call) => present(store.get(call.param('id'))));
  api.on('copyEntry', (call) => {
    const { kind, flow, path, settings } = store.get(call.param('id'));
    const into = flows.drafts.get(call.body.flow ?? flow).name;
    requireFit(settings, into, flows);
    const { entry, secret } = store.add({
      ...{ flow: into, settings, on: false },
      path: call.body.path ?? store.freePath(kind, into === flow ? path : into),
    });
    return { ...present(entry), newSecret: secret };
  });
  api.on('createEntry', ({ body }) => {
    requireFit(body.settings, body.flow, flows);
    const { entry, secret } = store.add({ ...body, flow: flows.drafts.nameOf(body.flow) });
    return { ...present(entry), newSecret: secret };
  });
  api.on('updateEntry', (call) => {
    const entry = store.get(call.param('id'));
    if (call.body.settings) requireFit(call.body.settings, entry.flow, flows);
    return present(store.change(entry.id, call.body));
  });
}

/** A chat needs a flow that takes a message, and a schedule must give all that its flow requires. */
function requireFit(settings: EntrySettings, flow: string, flows: FlowStore): void {
  const { document } = flows.drafts.get(flow);
  if (settings.kind === 'schedule') {
    nextDue(settings, new Date());
    const why = sentence(validate(inputSchema(document), settings.input as JsonObject));
    if (why)
      throw new PindroError(
        'request_invalid',
        {
          why: `The schedule does not supply the required inputs of flow "${flow}": ${why}`,
          fix: 'Set the inputs of each run in "input" (--input).',
        },
        { at: '/settings/input' },
      );
  }
  const properties = (document.input?.properties ?? {}) as object;
  if (settings.kind === 'chat' && !('message' in properties))
    throw new PindroError(
      'request_invalid',
      { why: `Flow "${flow}" has no input "message", which a chat requires` },
      { at: '/settings/kind' },
    );
}
