import { fileURLToPath } from 'node:url';
import { asPindroError, inputSchema, type JsonObject } from '@pindro/core';
import express from 'express';
import { defineCapability } from '../platform/capability.js';
import { beginnerOf } from './begin.js';
import { chatRoutes, type Questions } from './chats.js';
import { formRoutes } from './forms.js';
import { hookRoutes } from './hooks.js';
import { servedEntries } from './resource.js';
import { entryRoutes } from './routes.js';
import { Scheduler } from './schedule.js';
import { EntryStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    entries: EntryStore;
    scheduler: Scheduler;
    begin: ReturnType<typeof beginnerOf>;
  }
}

/** A stranger with a forged session must not cause a search through all runs: only this many recent runs are read. */
const LOOKED_BACK = 20_000;

export const entriesCapability = defineCapability({
  name: 'entries',
  needs: ['approvals', 'clocks', 'config', 'flows', 'former', 'guesses', 'keys', 'runner', 'runs', 'vault'],
  later: ['values'],
  gives: ['entries', 'scheduler', 'begin'],
  open: ({ config, vault, bus, masker, settings, flows, runner, former, clocks }) => {
    const entries = new EntryStore({ database: config, vault, bus, zone: settings.timeZone, masker, former });
    const begin = beginnerOf({ flows, runner });
    const scheduler = new Scheduler({
      store: entries,
      now: () => clocks.wall(),
      begin: async (entry) => {
        if (entry.settings.kind !== 'schedule') return;
        const caller = { id: 'schedule', attributes: {} };
        await begin({ entry, input: entry.settings.input as JsonObject, caller }).ended;
      },
      failed: ({ flow }, error) => bus.emit('line', `${flow} schedule not started ${asPindroError(error).message}`),
    });
    bus.on('changed', (what) => what === 'entry' && scheduler.reload());
    return { entries, begin, scheduler };
  },
  resources: ({ entries }) => [servedEntries(entries)],
  routes: (api, { entries, flows, address }) => entryRoutes(api, { store: entries, flows, address }),
  pages: (app, { entries, keys, guesses, flows, runs, begin, settings, vault, approvals, values }) => {
    const documentOf = (flow: string) => flows.loadNow(flow, 'live').document;
    const parts = {
      store: entries,
      keys,
      guesses,
      begin,
      documentOf,
      bodyLimit: settings.bodyLimit,
      signer: vault,
      values,
      questions: {
        open: (caller: string) => approvals.openOf(caller),
        decide: ({ run, path }, given, caller) => void approvals.decide(run, path, { note: '', ...given }, caller),
      } satisfies Questions,
      inputOf: (flow: string) => inputSchema(documentOf(flow)),
      history: async (flow: string, session: string) =>
        (await runs.list({ flow, session, roots: true, limit: 50, depth: LOOKED_BACK })).items.toReversed(),
    };
    app.use('/public', express.static(fileURLToPath(new URL('../../public', import.meta.url)), { maxAge: '1h' }));
    hookRoutes(app, parts);
    formRoutes(app, parts);
    chatRoutes(app, parts);
  },
  listen: ({ scheduler }) => scheduler.start(),
  close: ({ scheduler }) => scheduler.close(),
});
