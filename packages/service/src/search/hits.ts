import type { Hit } from '@pindro/contract';
import type { Parts } from '../platform/capability.js';
import { fits } from '../platform/search.js';

/** What is searched besides resources. */
export const SEARCHED = ['docs', 'runs'] as const;
type Searched = Pick<Parts, (typeof SEARCHED)[number] | 'resources'>;

/** Sections of the documentation in one result: they follow the things of the workspace. */
const MOST_SECTIONS = 8;

/** Returns what matches the words, closest first: by name before by description, things before their parts. */
export function hitsOf(words: string, limit: number, parts: Searched): Hit[] {
  const looked = words.trim().toLowerCase();
  const run = /^r[0-9a-z]{9,}$/.test(looked) ? parts.runs.find(looked) : null;
  const exact: Hit[] = run
    ? [{ sort: 'run', name: looked, title: `Run of ${run.head.flow}`, about: run.state, in: run.head.flow }]
    : [];
  const things = parts.resources.all().flatMap((one) => [...(one.hits?.() ?? [])]);
  const found = things.filter(({ name, title, about }) => fits(looked, name, title, about));
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
