import { convert } from 'html-to-text';
import { PindroError } from '../../errors/errors.js';
import { capturing } from '../../ports/capture-fetch.js';
import { fits } from '../../tools/selection.js';
import { type BuiltIn, gives } from './built-in.js';

const MAX_BYTES = 2 * 1024 * 1024;
const MAX_TEXT = 60_000;

/** Reads a page of an address that the builder allowed, as text. @param allowed addresses, with * for any part */
export const fetchPage = (allowed: readonly string[]): BuiltIn => ({
  name: 'fetch_page',
  description: `Reads a page as text. It can reach ${allowed.join(', ')} and nothing else.`,
  schema: {
    type: 'object',
    required: ['address'],
    properties: { address: { type: 'string', format: 'uri', description: 'Address of the page' } },
  },
  reads: true,
  call: async ({ address }, { run: { ports }, signal, captureExchange }) => {
    const url = addressOf(String(address), allowed);
    const answer = await capturing(ports.fetch, captureExchange)(
      {
        method: 'GET',
        url: url.href,
        headers: { accept: 'text/html, text/plain, application/json' },
        body: null,
        maxBytes: MAX_BYTES,
      },
      { signal },
    );
    const landed = answer.headers.location;
    if (answer.status >= 300 && answer.status < 400 && landed)
      return gives({ status: answer.status, moved_to: new URL(landed, url).href });
    const kind = answer.headers['content-type'] ?? '';
    const text = /html/.test(kind) || /^\s*</.test(answer.body) ? readable(answer.body) : answer.body;
    return gives({
      ...{ address: url.href, status: answer.status, text: text.slice(0, MAX_TEXT) },
      ...(text.length > MAX_TEXT && { left_out: `${text.length - MAX_TEXT} more characters` }),
    });
  },
});

/** Each address is checked when it is reached, including redirects. */
function addressOf(text: string, allowed: readonly string[]): URL {
  const refuse = (why: string) =>
    new PindroError(
      'arguments_refused',
      { tool: 'fetch_page', why, fix: `Allowed are ${allowed.join(', ')}.` },
      { at: '/address' },
    );
  let url: URL;
  try {
    url = new URL(text);
  } catch {
    throw refuse(`"${text.slice(0, 200)}" is not an address`);
  }
  if (url.protocol !== 'https:' && url.protocol !== 'http:') throw refuse(`the scheme ${url.protocol} is not allowed`);
  if (url.username || url.password) throw refuse('addresses with a user name and password are not allowed');
  if (!allowed.some((pattern) => isWithin(url, pattern)))
    throw refuse(`${url.origin}${url.pathname} is not on the list of allowed addresses`);
  return url;
}

/** The origin is the very one; only the path may be a pattern. */
function isWithin(url: URL, pattern: string): boolean {
  const [, origin = '', path = '/*'] = /^(https?:\/\/[^/]+)(\/.*)?$/.exec(pattern) ?? [];
  return origin !== '' && URL.canParse(origin) && new URL(origin).origin === url.origin && fits(url.pathname, path);
}

/** A page without its scripts, pictures and menus. */
const readable = (html: string): string =>
  convert(html, {
    wordwrap: false,
    limits: { maxInputLength: MAX_BYTES, maxDepth: 60 },
    selectors: [
      { selector: 'img', format: 'skip' },
      { selector: 'nav', format: 'skip' },
      { selector: 'a', options: { ignoreHref: true } },
    ],
  });
