import { commandLine, type Program } from '@pindro/contract';
import { type Along, revealedAs, together } from '../../credentials/headers.js';
import { type CredentialStore, requireSecret } from '../../credentials/store.js';
import { freeName } from '../../platform/names.js';
import type { Way } from '../../platform/reach/outside.js';
import type { Revealed } from '../connection/connection.js';

/** A secret for a server that is not stored yet. */
export type Carried = Along & { secret: string };

export const bearer = (secret: string): Carried => ({ kind: 'bearer', account: '', secret });

/** @throws request_invalid if one of them cannot be sent */
export function requireCarried(all: readonly Carried[]): void {
  for (const { kind, header, secret } of all) requireSecret({ kind, header: header ?? undefined, secret });
}

/** Names for secrets that are to be kept as credentials of a server. @param taken by others */
export function namesFor(server: string, all: readonly Carried[], taken: readonly string[]): string[] {
  const names: string[] = [];
  for (const index of all.keys())
    names.push(freeName(index === 0 ? `${server}-key` : `${server}-key-${index + 1}`, [...taken, ...names]));
  return names;
}

/** What is sent before it is stored. @param names references from a program */
export const revealCarried = (all: readonly Carried[], names: readonly string[] = []): Revealed => ({
  ...together(all.map((one) => revealedAs(one, one.secret))),
  values: Object.fromEntries(all.flatMap(({ secret }, index) => (names[index] ? [[names[index], secret]] : []))),
});

/** Combines several credentials. */
export const revealKept = (all: readonly Revealed[]): Revealed => ({
  ...together(all),
  values: Object.assign({}, ...all.map((one) => one.values ?? {})) as Record<string, string>,
  network: Object.assign({}, ...all.map((one) => one.network ?? {})) as Way,
});

/** Keeps secrets as credentials of a server, for its place alone. */
export function keepCarried(
  credentials: CredentialStore,
  server: string,
  place: string,
  all: readonly Carried[],
  names: readonly string[],
): void {
  for (const [index, { kind, header, account, secret }] of all.entries())
    credentials.add({
      ...{ name: names[index]!, kind, secret, header: header ?? undefined },
      account: account || `tool server ${server}`,
      origins: [place],
    });
}

/** Where the credentials of a server go: its address, or its program. */
export const placeOf = ({ url, program }: { url: string; program: Program | null }): string =>
  program ? `program:${commandLine(program)}` : url;
