import type { Hit } from '@pindro/contract';
import { outlineOf } from '@pindro/core';
import type { Parts } from '../platform/capability.js';
import { fits } from '../platform/search.js';

/** What is searched. */
export const SEARCHED = [
  ...(['docs', 'flows', 'endpoints', 'servers', 'tables'] as const),
  ...(['models', 'credentials', 'keys', 'entries', 'runs'] as const),
] as const;
type Searched = Pick<Parts, (typeof SEARCHED)[number]>;

/** Sections of the documentation in one result: they follow the things of the workspace. */
const MOST_SECTIONS = 8;

/** Returns what matches the words, closest first: by name before by description, things before their parts. */
export function hitsOf(words: string, limit: number, parts: Searched): Hit[] {
  const looked = words.trim().toLowerCase();
  const run = /^r[0-9a-z]{9,}$/.test(looked) ? parts.runs.find(looked) : null;
  const exact: Hit[] = run
    ? [{ sort: 'run', name: looked, title: `Run of ${run.head.flow}`, about: run.state, in: run.head.flow }]
    : [];
  const found = [...things(parts)].filter(({ name, title, about }) => fits(looked, name, title, about));
  const sections: Hit[] = parts.docs
    .search(looked)
    .slice(0, MOST_SECTIONS)
    .map(({ page, title, anchor }) => ({
      sort: 'doc',
      name: anchor,
      title,
      about: parts.docs.find(page)!.title,
      in: page,
    }));
  const named = found.sort((a, b) => rank(a, looked) - rank(b, looked)).slice(0, limit);
  return [...exact, ...named, ...sections].slice(0, limit);
}

function rank({ name, title, sort }: Hit, looked: string): number {
  const names = [name.toLowerCase(), title.toLowerCase(), name.toLowerCase().replaceAll(/[-_]/g, ' ')];
  const near = names.includes(looked)
    ? 0
    : names.some((one) => one.startsWith(looked))
      ? 1
      : names.some((one) => one.includes(looked))
        ? 2
        : 3;
  return near * 2 + (sort === 'step' || sort === 'tool' ? 1 : 0);
}

function* things({ flows, endpoints, servers, tables, models, credentials, keys, entries }: Searched): Generator<Hit> {
  const hit = (sort: Hit['sort'], name: string, title: string, about = '', within: string | null = null): Hit => ({
    ...{ sort, name, title, about },
    in: within,
  });
  for (const { name, document } of flows.all()) {
    yield hit('flow', name, document.title ?? name.replaceAll('-', ' '), document.description ?? '');
    for (const [step, one] of Object.entries(document.steps)) {
      const { title, note } = outlineOf(step, one);
      yield hit('step', step, title, note || one.kind, name);
    }
  }
  for (const name of endpoints.names()) {
    const { title, description } = endpoints.get(name);
    yield hit('endpoint', name, title ?? name, description ?? '');
  }
  for (const { name, about } of servers.list()) {
    yield hit('server', name, name, about);
    for (const tool of servers.tools(name)) yield hit('tool', tool.name, tool.name, tool.description ?? '', name);
  }
  for (const { name, columns } of tables.list())
    yield hit('table', name, name, columns.map((column) => column.name).join(', '));
  for (const { name, model } of models.list()) yield hit('model', name, name, model);
  for (const { name, account } of credentials.list(() => [])) yield hit('credential', name, name, account);
  for (const { id, name, caller } of keys.list()) yield hit('key', id, name, `for ${caller}`);
  for (const { id, flow, path, settings } of entries.list())
    yield hit('entry', id, settings.kind === 'schedule' ? settings.cron : path, settings.kind, flow);
}
