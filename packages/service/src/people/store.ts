import { createHash } from 'node:crypto';
import type { Person, Role } from '@pindro/contract';
import { didYouMean, PindroError } from '@pindro/core';
import { and, asc, eq, gt, lt } from 'drizzle-orm';
import type { FormerNames } from '../objects/former-names.js';
import { type Clocks, PLAIN_CLOCKS } from '../platform/clock.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { randomText } from '../platform/settings.js';
import { fitsPassword, sealPassword } from './passwords.js';
import { people, signIns } from './tables.js';

const LINK_LIVES = 60 * 60_000;
const SESSION_LIVES = 30 * 24 * 60 * 60_000;
const OWNER = 'owner';
const hashOf = (text: string) => createHash('sha256').update(text).digest('base64url');

/** Who may use the console, and how they sign in: by links that work once, or by a password. */
export class PeopleStore {
  constructor(
    private readonly database: Database,
    bus: Bus,
    private readonly former: FormerNames,
    private readonly clocks: Clocks = PLAIN_CLOCKS,
  ) {
    bus.on('removing', (what, name, { take }) => {
      if (what !== 'person') return;
      this.#endSessions(name);
      take('people', { name });
    });
    // Whoever set it up comes in as the owner.
    if (this.list().length === 0)
      this.database.insert(people).values({ name: OWNER, role: 'owner', password: null, createdAt: Date.now() }).run();
  }

  list(): Person[] {
    return this.database.select().from(people).orderBy(asc(people.name)).all().map(shown);
  }

  get(name: string): Person {
    return shown(this.#row(name));
  }

  #row(given: string) {
    const name = this.former.present('person', given);
    const row = this.database.select().from(people).where(eq(people.name, name)).get();
    if (row) return row;
    const suggestion = didYouMean(
      name,
      this.list().map((person) => person.name),
    );
    throw new PindroError('not_found', { what: 'person', name, suggestion });
  }

  async add(name: string, role: Role, password?: string): Promise<Person> {
    if (this.has(name)) throw new PindroError('already_there', { what: 'person', name });
    this.former.requireFree('person', 'person', name);
    const sealed = password === undefined ? null : await sealPassword(password);
    this.database.insert(people).values({ name, role, password: sealed, createdAt: Date.now() }).run();
    return this.get(name);
  }

  names(): string[] {
    return this.list().map((person) => person.name);
  }

  has(name: string): boolean {
    return this.names().includes(name);
  }

  /** Gives the row its new name; whoever is signed in stays so. */
  callOtherwise(from: string, to: string): void {
    this.database.update(people).set({ name: to }).where(eq(people.name, from)).run();
    this.database.update(signIns).set({ person: to }).where(eq(signIns.person, from)).run();
  }

  async change(given: string, { role, password }: { role?: Role | undefined; password?: string | undefined }) {
    const { name, role: before } = this.#row(given);
    if (role !== undefined && role !== 'owner' && before === 'owner') this.#refuseLastOwner(name);
    const sealed = password === undefined ? undefined : await sealPassword(password);
    if (role !== undefined) this.database.update(people).set({ role }).where(eq(people.name, name)).run();
    if (sealed !== undefined) {
      this.database.update(people).set({ password: sealed }).where(eq(people.name, name)).run();
      this.#endSessions(name);
    }
    return this.get(name);
  }

  /** Makes somebody have a role; whoever is not there yet comes in by a link. @throws last_owner */
  become(name: string, role: Role): void {
    if (!this.has(name)) {
      this.former.requireFree('person', 'person', name);
      this.database.insert(people).values({ name, role, password: null, createdAt: Date.now() }).run();
      return;
    }
    if (this.#row(name).role === 'owner' && role !== 'owner') this.#refuseLastOwner(name);
    this.database.update(people).set({ role }).where(eq(people.name, name)).run();
  }

  /** @throws last_owner */
  requireRemovable(name: string): void {
    if (this.#row(name).role === 'owner') this.#refuseLastOwner(name);
  }

  #refuseLastOwner(name: string): void {
    if (this.list().filter((person) => person.role === 'owner').length < 2)
      throw new PindroError('last_owner', { name });
  }

  #endSessions(name: string): void {
    this.database.delete(signIns).where(eq(signIns.person, name)).run();
  }

  /** The code of a new one-time link; good for an hour. */
  newCode(name: string = OWNER): string {
    const person = name === OWNER ? this.#anyOwner() : this.get(name).name;
    this.database.delete(signIns).where(lt(signIns.expiresAt, this.clocks.deletion())).run();
    return this.#keep('link', LINK_LIVES, person);
  }

  /** The one who set it up, or whoever is owner now. */
  #anyOwner(): string {
    const owners = this.list().filter((person) => person.role === 'owner');
    return (owners.find((person) => person.name === OWNER) ?? owners[0]!).name;
  }

  /** Trades a code for a session. @throws sign_in_link_used */
  signIn(code: string): string {
    const [taken] = this.database
      .delete(signIns)
      .where(and(eq(signIns.hash, hashOf(code)), eq(signIns.kind, 'link'), gt(signIns.expiresAt, this.clocks.expiry())))
      .returning()
      .all();
    if (!taken) throw new PindroError('sign_in_link_used');
    return this.#keep('session', SESSION_LIVES, taken.person);
  }

  /** @throws password_wrong, whichever of the two is */
  async signInWith(name: string, password: string): Promise<string> {
    await this.requirePassword(name, password);
    return this.#keep('session', SESSION_LIVES, this.former.present('person', name));
  }

  /** @throws password_wrong */
  async requirePassword(given: string, password: string): Promise<void> {
    const name = this.former.present('person', given);
    const row = this.database.select().from(people).where(eq(people.name, name)).get();
    if (!(await fitsPassword(password, row?.password ?? null))) throw new PindroError('password_wrong');
  }

  /** Whose session it is, or null. */
  personOf(token: string): Person | null {
    const row = this.database
      .select({ person: people })
      .from(signIns)
      .innerJoin(people, eq(people.name, signIns.person))
      .where(
        and(eq(signIns.hash, hashOf(token)), eq(signIns.kind, 'session'), gt(signIns.expiresAt, this.clocks.expiry())),
      )
      .get();
    return row ? shown(row.person) : null;
  }

  signOut(token: string): void {
    this.database
      .delete(signIns)
      .where(eq(signIns.hash, hashOf(token)))
      .run();
  }

  #keep(kind: 'link' | 'session', lives: number, person: string): string {
    const token = randomText(43);
    this.database
      .insert(signIns)
      .values({ hash: hashOf(token), kind, person, expiresAt: this.clocks.expiry() + lives })
      .run();
    return token;
  }
}

const shown = (row: typeof people.$inferSelect): Person => ({
  name: row.name,
  role: row.role as Role,
  hasPassword: row.password !== null,
  createdAt: new Date(row.createdAt).toISOString(),
});
