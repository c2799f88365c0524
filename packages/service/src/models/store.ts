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
  ) {}

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
    requireName(given.name, 'model connection');
    if (this.names().includes(given.name))
      throw new PindroError('already_there', { what: 'model connection', name: given.name });
    if (!DIALECT_NAMES.includes(given.dialect)) {
      throw new PindroError(
        'request_invalid',
        { why: `There is no dialect "${given.dialect}"; known: ${DIALECT_NAMES.join(', ')}` },
        { at: '/dialect' },
      );
    }
    const connection = { ...given, base: requireAddress(given.base).replace(/\/+$/, '') };
    await this.#ask(connection);
    this.database
      .insert(models)
      .values({ ...connection, testedAt: Date.now() })
      .run();
    this.bus.changed('model', given.name);
    return this.summary(given.name);
  }

  /** Gives a connection another address, for example because the model moved. */
  move(name: string, base: string): void {
    const { credential } = this.#row(name);
    if (credential) this.outside.credentials.allow(credential, base);
    this.database
      .update(models)
      .set({ base: base.replace(/\/+$/, '') })
      .where(eq(models.name, name))
      .run();
    this.bus.changed('model', name);
  }

  /** Asks the model one short question and keeps how that went. */
  async test(name: string): Promise<{ answer: string; milliseconds: number }> {
    const connection = this.connection(name);
    const start = performance.now();
    try {
      const answer = await this.#ask(connection);
      this.#keepTest(name, null);
      return { answer, milliseconds: Math.round(performance.now() - start) };
    } catch (error) {
      this.#keepTest(name, asPindroError(error).message);
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

  #row(name: string) {
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
