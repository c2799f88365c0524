import type { CredentialSummary } from '@pindro/contract';
import { type RevealedSecret, SHORTEST_SECRET } from '@pindro/core';
import { withoutSchemes } from './secret-format.js';

/** How a secret is sent with a request. */
export interface Along {
  kind: CredentialSummary['kind'];
  /** The name of the header, or of the query parameter. */
  header?: string | null | undefined;
  /** For kind basic: the user's name. */
  account: string;
}

const WAYS: Record<Along['kind'], (along: Along, secret: string) => Omit<RevealedSecret, 'secrets'>> = {
  bearer: (_, secret) => ({ headers: { authorization: `Bearer ${secret}` } }),
  header: ({ header }, secret) => ({ headers: { [header!.toLowerCase()]: secret } }),
  // A program is given it, and no request.
  environment: () => ({ headers: {} }),
  // It is shown when the connection is made.
  certificate: () => ({ headers: {} }),
  query: ({ header }, secret) => ({ headers: {}, query: { [header!]: secret } }),
  path: ({ header }, secret) => ({ headers: {}, path: { [header!]: secret } }),
  basic: ({ account }, secret) => ({
    headers: { authorization: `Basic ${Buffer.from(`${account}:${secret}`).toString('base64')}` },
  }),
};
/** Other forms of a secret that must not be shown either. */
const FORMS: Partial<Record<Along['kind'], (along: Along, secret: string) => string[]>> = {
  // The key alone is secret too.
  header: (_, secret) => [withoutSchemes(secret)].filter((key) => key.length >= SHORTEST_SECRET),
  query: (_, secret) => [encodeURIComponent(secret)],
  path: (_, secret) => [encodeURIComponent(secret)],
  basic: ({ account }, secret) => [`${account}:${secret}`],
};

/** What is sent with a request, and its secret values. */
export function revealedAs(along: Along, secret: string): RevealedSecret {
  return {
    ...WAYS[along.kind](along, secret),
    secrets: [...new Set([secret, ...(FORMS[along.kind]?.(along, secret) ?? [])])],
  };
}

/** Combines several credentials. */
export function together(all: readonly RevealedSecret[]): RevealedSecret {
  return {
    headers: Object.assign({}, ...all.map((one) => one.headers)) as Record<string, string>,
    query: Object.assign({}, ...all.map((one) => one.query ?? {})) as Record<string, string>,
    path: Object.assign({}, ...all.map((one) => one.path ?? {})) as Record<string, string>,
    secrets: all.flatMap((one) => one.secrets),
  };
}
