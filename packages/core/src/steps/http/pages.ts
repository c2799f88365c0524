import { z } from 'zod';
import { giveWay } from '../../async/yield.js';
import { PindroError } from '../../errors/errors.js';
import { type Json, valueAt } from '../../json/json.js';

export interface Page {
  status: number;
  headers: Record<string, string>;
  body: Json;
}

export const pagesConfig = z.strictObject({
  by: z.enum(['next_link', 'page_number', 'cursor', 'until_empty']).meta({
    title: 'Pagination',
    description: 'A link in the response, a page number, a cursor, or an item offset',
    words: {
      next_link: 'a link in the response',
      page_number: 'a page number',
      cursor: 'a cursor in the response',
      until_empty: 'an item offset',
    },
  }),
  items: z
    .string()
    .default('')
    .meta({
      title: 'Items',
      description: 'Dotted path to the items in the body; empty if the body is the list',
      examples: ['data.items'],
    }),
  parameter: z
    .string()
    .optional()
    .meta({ title: 'Parameter', description: 'Query parameter for the page', examples: ['page'] }),
  next: z
    .string()
    .optional()
    .meta({
      title: 'Next page',
      description: 'Dotted path to the next link or cursor; a link may also be in the Link header',
      examples: ['meta.next'],
    }),
  first: z.number().int().default(1).meta({ title: 'First page', description: 'Number of the first page' }),
  up_to: z
    .number()
    .int()
    .min(1)
    .max(1000)
    .default(100)
    .meta({ title: 'Maximum pages', description: 'Maximum number of pages to read', unit: 'pages' }),
});
type Config = z.infer<typeof pagesConfig>;

const USUAL = { page_number: 'page', cursor: 'cursor', until_empty: 'offset' } as const;

/** Reads page after page until there is no next one. @throws step_failed when a page holds no list */
export async function walkPages(
  config: Config,
  first: URL,
  load: (url: URL) => Promise<Page>,
): Promise<{ items: Json[]; pages: number; last: Page }> {
  const items: Json[] = [];
  let url: URL | null = first;
  const parameter = config.parameter ?? USUAL[config.by as keyof typeof USUAL];
  if (config.by === 'page_number') first.searchParams.set(parameter!, String(config.first));
  let last!: Page;
  let pages = 0;
  while (url && pages < config.up_to) {
    await giveWay();
    last = await load(url);
    const found = config.items === '' ? last.body : valueAt(last.body, config.items.split('.'));
    if (!Array.isArray(found))
      throw new PindroError(
        'step_failed',
        { why: `Page ${pages + 1} has no list ${config.items ? `at "${config.items}"` : 'as its body'}` },
        { at: '/pages/items' },
      );
    items.push(...(found as Json[]));
    pages++;
    url = nextOf(config, parameter, url, last, { pages, count: items.length, empty: found.length === 0 });
  }
  return { items, pages, last };
}

function nextOf(
  config: Config,
  parameter: string | undefined,
  url: URL,
  page: Page,
  seen: { pages: number; count: number; empty: boolean },
): URL | null {
  const cursor = config.next === undefined ? undefined : valueAt(page.body, config.next.split('.'));
  if (config.by === 'next_link') {
    const link = typeof cursor === 'string' ? cursor : linkNext(page.headers.link ?? '');
    if (!link) return null;
    const next = new URL(link, url);
    // A credential is sent with each page, so pages must stay on the same origin.
    if (next.origin !== url.origin)
      throw new PindroError('step_failed', {
        why: `The next page is at ${next.origin}, not at ${url.origin}`,
      });
    return next.href === url.href ? null : next;
  }
  const next = new URL(url);
  if (config.by === 'cursor') {
    if (cursor === undefined || cursor === null || cursor === '') return null;
    next.searchParams.set(parameter!, String(cursor));
    return next.href === url.href ? null : next;
  }
  if (seen.empty) return null;
  const at = config.by === 'page_number' ? config.first + seen.pages : seen.count;
  next.searchParams.set(parameter!, String(at));
  return next;
}

/** The address of the next page in a Link header (RFC 8288). */
function linkNext(header: string): string | undefined {
  for (const link of header.split(/,\s*(?=<)/)) {
    if (/;\s*rel="?[^"]*\bnext\b/i.test(link)) return /<([^<>]*)>/.exec(link)?.[1];
  }
  return undefined;
}
