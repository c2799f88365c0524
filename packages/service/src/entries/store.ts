import { randomUUID } from 'node:crypto';
import { type EntrySettings, entrySettings } from '@pindro/contract';
import { type Masker, PindroError } from '@pindro/core';
import { and, asc, eq, lt } from 'drizzle-orm';
import type { FormerNames } from '../objects/former-names.js';
import { bestEffort } from '../platform/database/best-effort.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireName } from '../platform/names.js';
import { permitOwnRecord, type SecretPermit } from '../policy/secrets.js';
import { nextDue } from './cron.js';
import { newHookSecret, requireHookSecret } from './signature.js';
import { entries, hookMessages } from './tables.js';

export type EntryKind = EntrySettings['kind'];
export interface EntryRecord {
  id: string;
  flow: string;
  kind: EntryKind;
  path: string;
  on: boolean;
  settings: EntrySettings;
  sealed: string | null;
  usedAt: number | null;
}
interface Sealer {
  seal(text: string, name: string): string;
  unseal(sealed: string, permit: SecretPermit): string;
}

/** Ids of messages are remembered longer than a signature holds, in milliseconds. */
const REMEMBERED = 15 * 60_000;

interface EntryParts {
  database: Database;
  vault: Sealer;
  bus: Bus;
  /** Time zone of schedules that name none. */
  zone: string;
  masker: Masker;
  former: Pick<FormerNames, 'present' | 'renamed' | 'requireFree'>;
}

/** Entry points other than tool calls. */
export class EntryStore {
  constructor(private readonly parts: EntryParts) {
    const { bus } = parts;
    bus.on('removing', (what, name, { take, tell }) => {
      const gone = what === 'entry' ? [this.get(name)] : what === 'flow' ? this.list(name) : [];
      for (const { id, flow, kind, path } of gone) {
        // An address that led to it is free again.
        take('former_names', { what: 'entry', name: `${kind}/${path}` });
        take('entries', { id });
        tell('entry', flow);
      }
    });
    bus.on('renamed', (what, from, to) => {
      if (what === 'flow') parts.database.update(entries).set({ flow: to }).where(eq(entries.flow, from)).run();
    });
    // A restored one must be masked again.
    bus.on('changed', (what) => {
      if (what === 'entry') for (const entry of this.list()) this.#know(entry);
    });
    for (const entry of this.list()) this.#know(entry);
  }

  /** The secret of an entry point is masked like any other. */
  #know(entry: EntryRecord): void {
    try {
      const secret = this.secretOf(entry);
      if (secret) this.parts.masker.add(secret);
    } catch {
      // Told when it is used.
    }
  }

  list(flow?: string): EntryRecord[] {
    return this.parts.database
      .select()
      .from(entries)
      .where(flow === undefined ? undefined : eq(entries.flow, flow))
      .orderBy(asc(entries.flow), asc(entries.kind), asc(entries.path))
      .all() as EntryRecord[];
  }

  get(id: string): EntryRecord {
    const row = this.parts.database.select().from(entries).where(eq(entries.id, id)).get();
    if (!row) throw new PindroError('not_found', { what: 'entry point', name: id, suggestion: 'Reload the list.' });
    return row as EntryRecord;
  }

  /** Returns the enabled entry point at an address, if any. */
  at(kind: EntryKind, given: string): EntryRecord | undefined {
    const path = this.parts.former.present('entry', `${kind}/${given}`).slice(kind.length + 1);
    const row = this.parts.database
      .select()
      .from(entries)
      .where(and(eq(entries.kind, kind), eq(entries.path, path), eq(entries.on, true)))
      .get();
    return row as EntryRecord | undefined;
  }

  /** @returns the entry point and, if one was created or given, its signing secret */
  add(given: {
    flow: string;
    path?: string | undefined;
    on: boolean;
    settings: EntrySettings;
    secret?: string | undefined;
  }): {
    entry: EntryRecord;
    secret: string | null;
  } {
    const { flow, on } = given;
    const settings = this.#checked(given.settings);
    if (given.secret !== undefined) requireHookSecret(given.secret);
    const id = randomUUID();
    const path = settings.kind === 'schedule' ? id : (given.path ?? flow);
    this.#refuseTaken(settings.kind, path);
    const secret = given.secret ?? (needsSecret(settings) ? newHookSecret() : null);
    const sealed = secret === null ? null : this.parts.vault.seal(secret, id);
    this.parts.database
      .insert(entries)
      .values({ id, flow, kind: settings.kind, path, on, settings, sealed, createdAt: Date.now() })
      .run();
    this.#know(this.get(id));
    this.parts.bus.changed('entry', flow);
    return { entry: this.get(id), secret };
  }

  change(
    id: string,
    change: {
      path?: string | undefined;
      on?: boolean | undefined;
      settings?: EntrySettings | undefined;
      secret?: string | undefined;
    },
  ): EntryRecord {
    const before = this.get(id);
    if (change.secret !== undefined) requireHookSecret(change.secret);
    const settings = change.settings ? this.#checked(change.settings) : before.settings;
    if (settings.kind !== before.kind)
      throw new PindroError('request_invalid', {
        why: `A ${before.kind} cannot become a ${settings.kind}; create a new one`,
      });
    const path = before.kind === 'schedule' ? before.path : (change.path ?? before.path);
    const [old, fresh] = [before.path, path].map((one) => `${before.kind}/${one}`);
    if (path !== before.path) this.#refuseTaken(before.kind, path, old);
    const secret = change.secret ?? (needsSecret(settings) && before.sealed === null ? newHookSecret() : null);
    this.parts.database
      .update(entries)
      .set({
        path,
        settings,
        on: change.on ?? before.on,
        ...(secret !== null && { sealed: this.parts.vault.seal(secret, id) }),
      })
      .where(eq(entries.id, id))
      .run();
    // Whoever has the old address still gets in.
    if (path !== before.path) {
      this.parts.former.renamed('entry', old!, fresh!);
      this.parts.bus.emit('renamed', 'entry', old!, fresh!);
    }
    this.#know(this.get(id));
    this.parts.bus.changed('entry', before.flow);
    return this.get(id);
  }

  used(id: string, at: number): void {
    bestEffort(() => this.parts.database.update(entries).set({ usedAt: at }).where(eq(entries.id, id)).run());
  }

  /** Takes a signed message, once. @throws message_repeated */
  takeMessage(entry: string, id: string, now: number): void {
    this.parts.database
      .delete(hookMessages)
      .where(lt(hookMessages.at, now - REMEMBERED))
      .run();
    const kept = this.parts.database
      .insert(hookMessages)
      .values({ entry, id, at: now })
      .onConflictDoNothing()
      .returning()
      .all();
    if (kept.length === 0) throw new PindroError('message_repeated', { id: id.slice(0, 80) });
  }

  /** The message was not taken after all. */
  dropMessage(entry: string, id: string): void {
    const one = and(eq(hookMessages.entry, entry), eq(hookMessages.id, id));
    bestEffort(() => this.parts.database.delete(hookMessages).where(one).run());
  }

  secretOf(entry: EntryRecord): string | null {
    return entry.sealed === null ? null : this.parts.vault.unseal(entry.sealed, permitOwnRecord(entry.id));
  }

  #checked(given: EntrySettings): EntrySettings {
    const settings = entrySettings.parse(given);
    if (settings.kind !== 'schedule') return settings;
    const zoned = { ...settings, cron: settings.cron.trim(), zone: settings.zone || this.parts.zone };
    nextDue(zoned, new Date());
    return zoned;
  }

  /**
   * Replaces the entry points of a flow by those of a file. Existing ones keep their ID and secret. New ones are
   * disabled until a person enables them.
   */
  become(flow: string, wanted: readonly { path?: string | undefined; on: boolean; settings: EntrySettings }[]): void {
    const left = this.list(flow);
    const same = (entry: EntryRecord, { path, settings }: (typeof wanted)[number]) =>
      settings.kind === 'schedule'
        ? entry.settings.kind === 'schedule' && entry.settings.cron === settings.cron
        : entry.kind === settings.kind && entry.path === (path ?? flow);
    for (const one of wanted) {
      const index = left.findIndex((entry) => same(entry, one));
      const [here] = index < 0 ? [] : left.splice(index, 1);
      const on = one.on && here?.on === true;
      if (here) this.change(here.id, { ...one, on });
      else this.add({ flow, ...one, on });
    }
    for (const { id } of left) this.parts.database.delete(entries).where(eq(entries.id, id)).run();
    this.parts.bus.changed('entry', flow);
  }

  /** Another address for a copied entry point. */
  freePath(kind: EntryKind, path: string): string {
    const taken = new Set(this.list().flatMap((entry) => (entry.kind === kind ? [entry.path] : [])));
    for (let count = 2; ; count++) if (!taken.has(`${path}-${count}`)) return `${path}-${count}`;
  }

  #refuseTaken(kind: EntryKind, path: string, owner?: string): void {
    this.parts.former.requireFree('entry', kind, `${kind}/${path}`, owner);
    if (kind !== 'schedule') requireName(path, 'entry point');
    const taken = this.list().find((entry) => entry.kind === kind && entry.path === path);
    if (taken) throw new PindroError('already_there', { what: `${kind} (of flow "${taken.flow}")`, name: path });
  }
}

const needsSecret = (settings: EntrySettings) => settings.kind === 'hook' && settings.guard === 'signature';
