import type { ProblemSummary } from '@pindro/contract';
import { Feed } from 'feed';

/** External text as plain text: no markup, and without characters that XML does not allow. */
const plain = (text: string) =>
  text
    .replace(/[^\t\n\r\u0020-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]/gu, '')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;');

/** What is open or came back, as Atom (RFC 4287): an entry of a problem is new again when it came back. */
export function problemFeed(problems: readonly ProblemSummary[], address: string): string {
  const latest = problems[0]?.lastAt;
  const feed = new Feed({
    ...{ id: `${address}/problems`, link: `${address}/problems`, title: 'Problems', copyright: '' },
    ...(latest !== undefined && { updated: new Date(latest) }),
    feedLinks: { atom: `${address}/api/v1/problems/feed` },
    generator: 'Pindro',
  });
  for (const { id, title, flow, state, times, firstAt, lastAt, changedAt } of problems)
    feed.addItem({
      id: `urn:pindro:problem:${id}${state === 'recurring' ? `:${changedAt}` : ''}`,
      title: plain(state === 'recurring' ? `Recurring: ${title}` : title),
      link: `${address}/problems/${id}`,
      description: plain(`In flow ${flow}, seen in ${times} ${times === 1 ? 'run' : 'runs'}.`),
      published: new Date(firstAt),
      date: new Date(lastAt),
    });
  return feed.atom1();
}
