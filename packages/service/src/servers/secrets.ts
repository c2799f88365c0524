import type { RevealedSecret } from '@pindro/core';
import { type Along, revealedAs, together } from '../credentials/along.js';
import { type CredentialStore, requireSecret } from '../credentials/store.js';
import { freeName } from '../platform/names.js';

/** A secret that is to go along with a server, and is not kept yet. */
export type Carried = Along & { secret: string };

/** @throws request_invalid where one of them cannot go along */
export function requireCarried(all: readonly Carried[]): void {
  for (const { kind, header, secret } of all) requireSecret({ kind, header: header ?? undefined, secret });
}

/** What goes along before any of it is kept. */
export const revealCarried = (all: readonly Carried[]): RevealedSecret =>
  together(all.map((one) => revealedAs(one, one.secret)));

/** Keeps secrets as credentials of a server, for its address alone. @returns their names */
export function keepCarried(
  credentials: CredentialStore,
  server: string,
  url: string,
  all: readonly Carried[],
): string[] {
  return all.map(({ kind, header, account, secret }, index) => {
    const name = freeName(index === 0 ? `${server}-key` : `${server}-key-${index + 1}`, credentials.names());
    credentials.add({
      ...{ name, kind, secret, header: header ?? undefined },
      account: account || `tool server ${server}`,
      origins: [new URL(url).origin],
    });
    return name;
  });
}
