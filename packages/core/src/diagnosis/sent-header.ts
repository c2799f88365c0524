import { isObject, type Json } from '../json/json.js';
import { schemesOf } from '../trace/exchanges/exchange.js';
import { attribute } from '../trace/spans/attributes.js';
import type { Span } from '../trace/spans/span.js';

/** A header of a request, without secrets. */
export interface SentHeader {
  /** Name of the header in lower case. */
  header: string;
  /** Authentication schemes in front of the key, in lower case: `['bearer']`, or `[]` for a bare key. */
  schemes: string[];
}

/**
 * Describes a header of a captured request for a finding.
 * @param header its name
 * @param value it had, masked
 * @returns the name in lower case, and the authentication schemes that the value begins with
 */
export const sentHeader = (header: string, value: string): SentHeader => ({
  header: header.toLowerCase(),
  schemes: schemesOf(value).map((scheme) => scheme.toLowerCase()),
});

/**
 * Returns the headers of the last request of a span that was refused, as recorded with redacted values; null where no
 * such request was recorded.
 */
export function refusedHeaders(span: Span): SentHeader[] | null {
  const all = span.attributes[attribute.exchanges];
  const refused = Array.isArray(all) ? all.filter(isRefused) : [];
  const last = refused.at(-1) as { request: { headers?: Record<string, string> } } | undefined;
  return last ? Object.entries(last.request.headers ?? {}).map(([name, value]) => sentHeader(name, value)) : null;
}

function isRefused(exchange: Json): boolean {
  if (!isObject(exchange) || !isObject(exchange.request) || !isObject(exchange.answer)) return false;
  return exchange.answer.status === 401 || exchange.answer.status === 403;
}

/**
 * Returns whether the headers include this one. Compares schemes only in `Authorization`; other headers may be redacted
 * with their schemes.
 */
export const includesHeader = (headers: readonly SentHeader[], { header, schemes }: SentHeader): boolean =>
  headers.some(
    (one) => one.header === header && (header !== 'authorization' || one.schemes.join(' ') === schemes.join(' ')),
  );
