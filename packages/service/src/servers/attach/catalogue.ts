import { type CatalogueHit, type FetchPort, isObject, type JsonObject, PindroError } from '@pindro/core';
import { requireAddress } from '../../platform/names.js';
import type { PastedReader } from '../connection/reader.js';

/** Maximum size of a catalogue in bytes, and number of pages. */
const LARGEST = 4 * 1024 * 1024;
const MOST_PAGES = 10;
const PATIENCE = 15_000;
const MOST_HITS = 50;

interface Asked {
  address?: string | undefined;
  text?: string | undefined;
  words: string;
}

/** Servers of a catalogue that have all of these words: of a text, or of what is at an address, page after page. */
export async function searchCatalogue(
  fetch: FetchPort,
  reader: PastedReader,
  { address, text, words }: Asked,
): Promise<{ items: CatalogueHit[]; more: number }> {
  if (address === undefined && text === undefined)
    throw new PindroError(
      'request_invalid',
      { why: 'The address or the text of a catalogue is required' },
      { at: '/address' },
    );
  const hits =
    text === undefined
      ? await ofAddress(fetch, reader, requireAddress(address!), words)
      : await reader.search(text, words);
  return { items: hits.slice(0, MOST_HITS), more: Math.max(0, hits.length - MOST_HITS) };
}

async function ofAddress(
  fetch: FetchPort,
  reader: PastedReader,
  address: string,
  words: string,
): Promise<CatalogueHit[]> {
  const hits: CatalogueHit[] = [];
  let url = new URL(address);
  for (let page = 0; page < MOST_PAGES; page++) {
    const text = await read(fetch, url.href);
    hits.push(...(await reader.search(text, words)));
    const next = nextOf(text);
    if (next === null) break;
    url = new URL(address);
    url.searchParams.set('cursor', next);
  }
  return hits;
}

async function read(fetch: FetchPort, url: string): Promise<string> {
  const request = { url, method: 'GET', headers: { accept: 'application/json' }, body: null, maxBytes: LARGEST };
  const answer = await fetch(request, { signal: AbortSignal.timeout(PATIENCE) }).catch((error: unknown) => {
    if (error instanceof PindroError) throw error;
    const why = (error as Error).message;
    throw new PindroError('address_unreachable', { what: 'The catalogue', address: url, why }, { cause: error });
  });
  if (answer.status < 400) return answer.body;
  throw new PindroError('http_status', { address: url, status: answer.status });
}

/** Where the next page of a list begins, as the open registry has it. */
function nextOf(text: string): string | null {
  try {
    const { metadata } = JSON.parse(text) as JsonObject;
    const next = isObject(metadata) ? (metadata.nextCursor ?? metadata.next_cursor) : null;
    return typeof next === 'string' && next !== '' ? next : null;
  } catch {
    return null;
  }
}
