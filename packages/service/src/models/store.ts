import type { ModelSummary } from '@pindro/contract';
import {
  askModel,
  asPindroError,
  DIALECT_NAMES,
  didYouMean,
  type FetchPort,
  type JsonObject,
  Masker,
  type ModelConnection,
  PindroError,
} from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { CredentialStore } from '../credentials/store.js';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireAddress, requireName } from '../platform/names.js';
import { models } from './tables.js';

/** A model that does not answer a short question in this time is not usable. */
const TEST_LIMIT = 15_000;

export class ModelStore {
  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly outside: { fetch: FetchPort; credentials: CredentialStore },
    private readonly former: FormerNames,
  ) {
    bus.on('removing', (what, name, { take }) => {
      if (what === 'model') take('models', { name });
    });
    bus.on('renamed', (what, from, to) => {
      if (what === 'credential')
        database.update(models).set({ credential: to }).where(eq(models.credential, from)).run();
    });
  }

  names(): string[] {
    return this.database
      .select({ name: models.name })
      .from(models)
      .orderBy(asc(models.name))
      .all()
      .map(({ name }) => name);
  }

  list(): ModelSummary[] {
    return this.names().map((name) => this.summary(name));
  }

  summary(name: string): ModelSummary {
    const row = this.#row(name);
    return {
      ...row,
      settings: row.settings as ModelSummary['settings'],
      testedAt: row.testedAt === null ? null : new Date(row.testedAt).toISOString(),
    };
  }

  connection(name: string): ModelConnection {
    const { testedAt: _, trouble: __, ...row } = this.#row(name);
    return { ...row, settings: row.settings as JsonObject };
  }

  usersOf(credential: string): string[] {
    return this.database
      .select({ name: models.name })
      .from(models)
      .where(eq(models.credential, credential))
      .all()
      .map(({ name }) => `model connection "${name}"`);
  }

  /** Keeps a connection once its model has answered. */
  async add(given: ModelConnection): Promise<ModelSummary> {
    this.#requireFree(given.name);
    requireDialect(given.dialect);
    const connection = { ...given, base: baseOf(given.base) };
    await this.#ask(connection);
    this.#requireFree(given.name);
    this.database
      .insert(models)
      .values({ ...connection, testedAt: Date.now() })
      .run();
    this.bus.changed('model', given.name);
    return this.summary(given.name);
  }

  #requireFree(name: string): void {
    requireName(name, 'model connection');
    if (this.names().includes(name)) throw new PindroError('already_there', { what: 'model connection', name });
    this.former.requireFree('model', 'model connection', name);
  }

  /** Changes a connection once its model has answered so, or without asking it. What is left out stays. */
  async change(given: string, change: ModelChange): Promise<ModelSummary> {
    const { untested, ...parts } = change;
    const before = this.connection(given);
    const told = Object.fromEntries(Object.entries(parts).filter(([, value]) => value !== undefined));
    const connection: ModelConnection = { ...before, ...told };
    connection.base = baseOf(connection.base);
    requireDialect(connection.dialect);
    const { name, credential } = connection;
    if (credential !== null) this.outside.credentials.summary(credential, []);
    const takeBack = credential === null ? () => {} : this.outside.credentials.allow(credential, connection.base);
    if (!untested)
      await this.#ask(connection).catch((error: unknown) => {
        takeBack();
        throw error;
      });
    const { name: _, ...values } = connection;
    const tested = untested ? {} : { testedAt: Date.now(), trouble: null };
    this.database
      .update(models)
      .set({ ...values, ...tested })
      .where(eq(models.name, name))
      .run();
    this.bus.changed('model', name);
    return this.summary(name);
  }

  /** Gives a connection another address, for example because the model moved. */
  async move(name: string, base: string): Promise<void> {
    await this.change(name, { base, untested: true });
  }

  /** Makes a connection what a file says of it, without asking its model. */
  keepWritten(given: ModelConnection): void {
    requireDialect(given.dialect);
    const { name, ...rest } = given;
    const values = { ...rest, base: baseOf(given.base) };
    if (this.names().includes(name)) this.database.update(models).set(values).where(eq(models.name, name)).run();
    else {
      this.#requireFree(name);
      this.database
        .insert(models)
        .values({ name, ...values, testedAt: null })
        .run();
    }
    this.bus.changed('model', name);
  }

  /** Gives the row its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void {
    this.database.update(models).set({ name: to }).where(eq(models.name, from)).run();
  }

  copy(from: string, to: string): void {
    const row = this.#row(from);
    this.#requireFree(to);
    this.database
      .insert(models)
      .values({ ...row, name: to })
      .run();
    this.bus.changed('model', to);
  }

  /** Asks the model one short question and keeps how that went. */
  async test(name: string): Promise<{ answer: string; milliseconds: number }> {
    const connection = this.connection(name);
    const { name: own } = connection;
    const start = performance.now();
    try {
      const answer = await this.#ask(connection);
      this.#keepTest(own, null);
      return { answer, milliseconds: Math.round(performance.now() - start) };
    } catch (error) {
      this.#keepTest(own, asPindroError(error).message);
      throw error;
    }
  }

  async #ask(connection: ModelConnection): Promise<string> {
    const limit = new PindroError('timed_out', {
      what: `Model connection "${connection.name}"`,
      limit: `${TEST_LIMIT / 1000}s`,
    });
    const controller = new AbortController();
    const timer = setTimeout(() => controller.abort(limit), TEST_LIMIT);
    try {
      const answer = await askModel(connection, [{ role: 'user', text: 'Say hello in one short sentence.' }], [], {
        fetch: this.outside.fetch,
        secrets: this.outside.credentials.port,
        masker: new Masker(this.outside.credentials.masker),
        signal: controller.signal,
      });
      return answer.text;
    } finally {
      clearTimeout(timer);
    }
  }

  #keepTest(name: string, trouble: string | null): void {
    this.database.update(models).set({ testedAt: Date.now(), trouble }).where(eq(models.name, name)).run();
    this.bus.changed('model', name);
  }

  #row(given: string) {
    const name = this.former.present('model', given);
    const row = this.database.select().from(models).where(eq(models.name, name)).get();
    if (!row)
      throw new PindroError('not_found', {
        what: 'model connection',
        name,
        suggestion: didYouMean(name, this.names()),
      });
    return row;
  }
}

/** What may be changed of a connection; what is left out stays. */
export type ModelChange = {
  [K in 'dialect' | 'base' | 'model' | 'credential' | 'settings']?: ModelConnection[K] | undefined;
} & {
  /** Also when it does not answer now. */
  untested?: boolean;
};

const baseOf = (text: string) => requireAddress(text).replace(/\/+$/, '');

function requireDialect(dialect: string): void {
  if (DIALECT_NAMES.includes(dialect)) return;
  throw new PindroError(
    'request_invalid',
    { why: `There is no dialect "${dialect}"; known: ${DIALECT_NAMES.join(', ')}` },
    { at: '/dialect' },
  );
}
