import type { CredentialSummary } from '@pindro/contract';
import {
  type CredentialFact,
  type CredentialForm,
  didYouMean,
  type Masker,
  PindroError,
  type RevealedSecret,
  type SecretPort,
  type SentHeader,
  SHORTEST_SECRET,
  sentHeader,
} from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { FormerNames } from '../objects/former-names.js';
import type { Clocks } from '../platform/clock.js';
import { bestEffort } from '../platform/database/best-effort.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { originOf, requireName } from '../platform/names.js';
import { credentialBinding, permitSecret, type SecretUse } from '../policy/secrets.js';
import { type Along, revealedAs } from './headers.js';
import { cleaned, oddity, repeatedScheme, withoutSchemes } from './secret-format.js';
import { readSource, type SecretSource } from './source.js';
import { credentials } from './tables.js';
import type { Vault } from './vault.js';

export interface NewCredential {
  name: string;
  kind: CredentialSummary['kind'];
  /** The name of the header, or of the query parameter. */
  header?: string | undefined;
  account: string;
  /** Its value; or else where that is read. */
  secret?: string | undefined;
  /** Where its value is read whenever it is used, instead of being kept. */
  source?: SecretSource | undefined;
  /** Allowed origins; the first one it is used with if omitted. */
  origins?: string[] | undefined;
}

/** How often a use is written down, in milliseconds. */
const A_WHILE = 60_000;
type Row = typeof credentials.$inferSelect;
/** Characters that are allowed in a header value (RFC 9110, section 5.5). */
const HEADER_VALUE = /^[\x20-\x7e\x80-\xff]+$/;
const HEADER_NAME = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;

interface CredentialParts {
  database: Database;
  vault: Vault;
  bus: Bus;
  former: FormerNames;
  masker: Masker;
  clocks: Clocks;
}

/** Named secrets: encrypted when they are written, and decrypted only for their use. */
export class CredentialStore {
  /** As the core asks for credentials. */
  readonly port: Required<SecretPort>;

  /** Knows every secret of the workspace, and those that a credential had since the start. */
  readonly masker: Masker;

  constructor(private readonly parts: CredentialParts) {
    const { bus, masker } = parts;
    this.masker = masker;
    this.port = { reveal: async (name, use) => this.reveal(name, use), masker };
    for (const name of this.names()) this.#know(name);
    bus.on('removing', (what, name, { take, needs }) => {
      if (what !== 'credential') return;
      // It is read on the machine with the rights of the service, which only an owner sets up.
      if (this.#row(name).source) needs('owner');
      take('credentials', { name });
    });
    // A restored one must be masked again.
    bus.on('changed', (what, name) => {
      if (what === 'credential' && this.names().includes(name)) this.#know(name);
    });
  }

  /** Registers the secrets of a credential for masking. One that cannot be decrypted is unused. */
  #know(name: string): void {
    try {
      for (const secret of this.reveal(name, { inside: 'redact' }).secrets) this.masker.add(secret);
    } catch {
      // Told when it is used.
    }
  }

  names(): string[] {
    return this.parts.database
      .select({ name: credentials.name })
      .from(credentials)
      .orderBy(asc(credentials.name))
      .all()
      .map(({ name }) => name);
  }

  list(usedBy: (name: string) => string[]): CredentialSummary[] {
    return this.names().map((name) => this.summary(name, usedBy(name)));
  }

  summary(name: string, usedBy: string[]): CredentialSummary {
    const row = this.#row(name);
    return {
      name: row.name,
      kind: row.kind as CredentialSummary['kind'],
      header: row.header,
      account: row.account,
      origins: row.origins,
      createdAt: new Date(row.createdAt).toISOString(),
      usedAt: row.usedAt === null ? null : new Date(row.usedAt).toISOString(),
      used: row.used,
      source: row.source ?? null,
      formerUntil: this.hasFormer(row.name) ? new Date(row.formerUntil!).toISOString() : null,
      usedBy,
    };
  }

  add(given: NewCredential): void {
    const source = given.source ?? null;
    const secret = source ? readSource(given.name, source) : (given.secret ?? '');
    requireSecret({ ...given, secret });
    this.#requireFree(given.name);
    this.parts.database
      .insert(credentials)
      .values({
        name: given.name,
        kind: given.kind,
        header: isNamed(given.kind) ? given.header! : null,
        account: given.account,
        // What is read elsewhere is not kept as well.
        sealed: this.parts.vault.seal(source ? '' : secret, credentialBinding(given.name)),
        source,
        origins: given.origins?.map(originOf) ?? null,
        createdAt: Date.now(),
      })
      .run();
    this.#know(given.name);
    this.parts.bus.changed('credential', given.name);
  }

  #requireFree(name: string): void {
    requireName(name, 'credential');
    if (this.names().includes(name)) throw new PindroError('already_there', { what: 'credential', name });
    this.parts.former.requireFree('credential', 'credential', name);
  }

  /** Changes how it is sent, its owner, or its secret. Omitted parts remain. */
  change(
    given: string,
    change: Partial<Pick<NewCredential, 'kind' | 'header' | 'account' | 'secret' | 'source'>> & {
      /** How long the previous secret is still tried if the new one is rejected, in milliseconds. */
      keep?: number | undefined;
    },
  ): void {
    const row = this.#row(given);
    const { name } = row;
    const kind = change.kind ?? (row.kind as NewCredential['kind']);
    const header = change.header ?? row.header ?? undefined;
    const source = change.source ?? (change.secret === undefined ? (row.source ?? null) : null);
    const secret = change.secret ?? (source ? readSource(name, source) : this.#unseal(row, { inside: 'rebind' }));
    requireSecret({ kind, header, secret });
    const isFresh = change.secret !== undefined && change.keep !== undefined;
    const former = isFresh
      ? {
          former: this.parts.vault.seal(this.#unseal(row, { inside: 'rebind' }), credentialBinding(name)),
          formerUntil: this.parts.clocks.expiry() + change.keep!,
        }
      : {};
    this.parts.database
      .update(credentials)
      .set({
        kind,
        header: isNamed(kind) ? header! : null,
        account: change.account ?? row.account,
        sealed: this.parts.vault.seal(source ? '' : secret, credentialBinding(name)),
        ...{ source, ...former },
      })
      .where(eq(credentials.name, name))
      .run();
    this.#know(name);
    this.parts.bus.changed('credential', name);
  }

  /** How it is sent, and what is malformed about its secret, without any of its characters. @throws not_found */
  shape(given: string): CredentialFact {
    const row = this.#row(given);
    const { odd, sends } = this.#lookAt(row);
    return {
      ...{ name: row.name, kind: row.kind, header: row.header, sends, stored: !row.source },
      ...{ odd: odd?.says ?? '', cleans: !row.source && odd !== null && odd.clean !== null },
    };
  }

  #lookAt(row: Row): { odd: ReturnType<typeof oddity>; sends: SentHeader | null } {
    try {
      const secret = this.#unseal(row, { inside: 'inspect' });
      const [header] = Object.entries(revealedAs(row as Along, secret).headers);
      return { odd: oddity(secret, row), sends: header ? sentHeader(...header) : null };
    } catch {
      // One that has no value now has nothing odd either.
      return { odd: null, sends: null };
    }
  }

  /** Takes from a secret what does not belong to it. @throws cure_stale where nothing is odd about it any more */
  clean(given: string): void {
    const row = this.#row(given);
    const secret = row.source ? '' : this.#unseal(row, { inside: 'inspect' });
    const left = cleaned(secret, row);
    if (left === secret || left === '') throw new PindroError('cure_stale', { what: `credential "${row.name}"` });
    this.change(row.name, { secret: left });
  }

  /**
   * Changes how a credential is sent. Authentication schemes in the secret belonged to the former header and are
   * removed.
   * @throws request_invalid if the secret has another source and has such a scheme
   */
  reform(given: string, { kind, header }: CredentialForm): void {
    const row = this.#row(given);
    const secret = row.source ? null : withoutSchemes(cleaned(this.#unseal(row, { inside: 'inspect' }), row));
    this.change(row.name, {
      kind: kind as NewCredential['kind'],
      ...(header !== null && { header }),
      ...(secret !== null && { secret }),
    });
  }

  /** Remembers how a credential is stored. @returns a function that restores it */
  restorePoint(given: string): () => void {
    const { name, kind, header, account, sealed, former, formerUntil } = this.#row(given);
    return () => {
      this.parts.database
        .update(credentials)
        .set({ kind, header, account, sealed, former, formerUntil })
        .where(eq(credentials.name, name))
        .run();
      this.#know(name);
      this.parts.bus.changed('credential', name);
    };
  }

  /** Renames the row and re-encrypts the secret for the new name; references follow elsewhere. */
  callOtherwise(from: string, to: string): void {
    const { sealed, former } = this.#sealedFor(to, this.#row(from));
    this.parts.database.update(credentials).set({ name: to, sealed, former }).where(eq(credentials.name, from)).run();
  }

  /** Encrypted parts of a credential, bound to another name. */
  #sealedFor(to: string, { name, sealed, former, origins }: Row): { sealed: string; former: string | null } {
    const again = (one: string) =>
      this.parts.vault.seal(
        this.#unseal({ name, sealed: one, source: null, origins }, { inside: 'rebind' }),
        credentialBinding(to),
      );
    return { sealed: again(sealed), former: former === null ? null : again(former) };
  }

  /** The same secret under another name, going to the same places. */
  copy(from: string, to: string): void {
    const row = this.#row(from);
    this.#requireFree(to);
    this.parts.database
      .insert(credentials)
      .values({ ...row, name: to, ...this.#sealedFor(to, row), createdAt: Date.now() })
      .run();
    this.parts.bus.changed('credential', to);
  }

  /** Says where a credential may go from now on; nowhere yet, until it is first used, where there is none. */
  setOrigins(given: string, origins: readonly string[]): void {
    const { name } = this.#row(given);
    const kept = origins.length > 0 ? [...new Set(origins.map(originOf))] : null;
    this.parts.database.update(credentials).set({ origins: kept }).where(eq(credentials.name, name)).run();
    this.parts.bus.changed('credential', name);
  }

  /** Credentials that somebody said are for an address, or that go there already. */
  meantFor(url: string): string[] {
    const origin = originOf(url);
    const { name, origins: where, used } = credentials;
    const all = this.parts.database.select({ name, origins: where, used }).from(credentials).all();
    const there = all.filter(({ origins }) => origins?.includes(origin));
    // The one that was used there recently is more likely.
    const taken = there.filter(({ used }) => used === 'taken');
    return (taken.length > 0 ? taken : there).map(({ name }) => name);
  }

  /** Lets a credential go to an address too, because somebody moved what it is for there. @returns how to take that back */
  allow(name: string, url: string): () => void {
    const { origins } = this.#row(name);
    if (origins === null || origins.includes(originOf(url))) return () => {};
    this.setOrigins(name, [...origins, url]);
    return () => this.setOrigins(name, origins);
  }

  /**
   * Returns how the credential is sent. Without allowed origins, the first use sets them.
   * @throws not_found, secret_unsealable, credential_elsewhere
   */
  reveal(name: string, use: SecretUse): RevealedSecret {
    const row = this.#row(name);
    if ('url' in use && (row.kind === 'environment' || row.kind === 'certificate'))
      throw new PindroError('credential_unfit', { name });
    return revealedAs(row as Along, this.#unseal(row, use));
  }

  /** The secret itself, for a program that is given it. @throws like `reveal` */
  value(name: string, use: SecretUse): string {
    return this.#unseal(this.#row(name), use);
  }

  /** What was written down last, so that it need not be looked up with every call. */
  readonly #lastUse = new Map<string, { how: string; at: number }>();
  /** Remembers what came of the last use. Not every use is written down: only another outcome, and one a minute. */
  used(name: string, how: 'taken' | 'refused'): void {
    const last = this.#lastUse.get(name);
    if (last?.how === how && Date.now() - last.at < A_WHILE) return;
    const row = this.#row(name);
    this.#lastUse.set(name, { how, at: Date.now() });
    bestEffort(() =>
      this.parts.database
        .update(credentials)
        .set({ used: how, usedAt: Date.now() })
        .where(eq(credentials.name, row.name))
        .run(),
    );
  }

  /** Decrypts what is stored, or reads it where it is kept, with a permit for its use. The first use binds it to that origin. */
  #unseal(
    { name, sealed, source, origins = null }: Pick<Row, 'name' | 'sealed' | 'source' | 'origins'>,
    use: SecretUse,
  ): string {
    const permit = permitSecret({ name, origins }, use, originOf);
    if ('url' in use && origins === null) this.#bindOrigin(name, originOf(use.url));
    if (source) {
      const secret = readSource(name, source);
      // It may be another one than before.
      this.masker.add(secret);
      return secret;
    }
    try {
      return this.parts.vault.unseal(sealed, permit);
    } catch (error) {
      throw new PindroError('secret_unsealable', { name }, { cause: error });
    }
  }

  /** Whether the previous secret may still be tried. */
  hasFormer(name: string): boolean {
    const { former, formerUntil } = this.#row(name);
    return former !== null && (formerUntil ?? 0) > this.parts.clocks.expiry();
  }

  /** Same as {@link reveal}, with the previous secret. */
  revealFormer(name: string, use: { url: string }): RevealedSecret {
    const row = this.#row(name);
    if (!this.hasFormer(name)) return this.reveal(name, use);
    return revealedAs(
      row as Along,
      this.#unseal({ name: row.name, sealed: row.former!, source: null, origins: row.origins }, use),
    );
  }

  #bindOrigin(name: string, origin: string): void {
    bestEffort(() =>
      this.parts.database
        .update(credentials)
        .set({ origins: [origin] })
        .where(eq(credentials.name, name))
        .run(),
    );
  }

  #row(given: string) {
    const name = this.parts.former.present('credential', given);
    const row = this.parts.database.select().from(credentials).where(eq(credentials.name, name)).get();
    if (!row)
      throw new PindroError('not_found', { what: 'credential', name, suggestion: didYouMean(name, this.names()) });
    return row;
  }
}

/** Whether a credential of a kind has a header or parameter name. */
const isNamed = (kind: NewCredential['kind']) => kind === 'header' || kind === 'query' || kind === 'path';

/** @throws request_invalid when a secret cannot be used, or could not be masked */
export function requireSecret({
  kind,
  header,
  secret,
}: Pick<NewCredential, 'kind' | 'header'> & { secret: string }): void {
  const refuse = (why: string, at: string) => new PindroError('request_invalid', { why }, { at });
  if (secret.length < SHORTEST_SECRET)
    throw refuse(
      `The secret has ${secret.length} characters and needs at least ${SHORTEST_SECRET}, because a shorter one cannot be redacted reliably`,
      '/secret',
    );
  if ((kind === 'bearer' || kind === 'header') && !HEADER_VALUE.test(secret))
    throw refuse('The secret contains a line break or another character that is not allowed in a header', '/secret');
  if (
    kind === 'certificate' &&
    !(secret.includes('-----BEGIN CERTIFICATE-----') && /-----BEGIN [A-Z ]*PRIVATE KEY-----/.test(secret))
  )
    throw refuse(
      'A credential of kind certificate needs a certificate and its private key in PEM, one after the other',
      '/secret',
    );
  if (kind === 'bearer' && /^bearer\s/i.test(secret))
    throw refuse('The secret starts with "Bearer"; remove it, it is added automatically', '/secret');
  const repeated = kind === 'header' && repeatedScheme(secret);
  if (repeated) throw refuse(`The secret repeats the scheme "${repeated}"; remove one`, '/secret');
  if (kind === 'header' && !(header && HEADER_NAME.test(header)))
    throw refuse('A credential of kind header needs the name of its header, such as X-Api-Key', '/header');
  if (kind === 'path' && !(header && /^[a-z0-9_]+$/.test(header)))
    throw refuse('A credential of kind path needs the name of the placeholder {name} in the address', '/header');
  if (kind === 'query' && !(header && /^[\w.~[\]-]+$/.test(header)))
    throw refuse('A credential of kind query needs the name of its parameter, such as api_key', '/header');
}
