import { RESOURCE } from '@pindro/contract';
import { hitOf, type ServedResource } from '../platform/resources.js';
import type { EntryStore } from './store.js';

export const servedEntries = (entries: EntryStore): ServedResource => ({
  is: RESOURCE.entry,
  names: () => entries.list().map(({ id }) => id),
  nameOf: (given) => entries.get(given).id,
  beforeRemoval(id) {
    const { flow, kind, path } = entries.get(id);
    return { words: kind === 'schedule' ? `schedule of ${flow}` : `${kind} ${path}` };
  },
  usersOf: (what, name) =>
    what === 'flow'
      ? entries
          .list(name)
          .map(({ kind, path, settings }) =>
            settings.kind === 'schedule' ? `the schedule "${settings.cron}"` : `${kind} "${path}"`,
          )
      : [],
  *hits() {
    for (const { id, flow, path, settings } of entries.list()) {
      const title = settings.kind === 'schedule' ? settings.cron : path;
      yield hitOf(this.is, { name: id, title, about: settings.kind, within: flow });
    }
  },
});
