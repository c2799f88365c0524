import type { ModelSummary } from '@pindro/contract';
import {
  type AskedAnswer,
  type AskOptions,
  askModel,
  asPindroError,
  DIALECT_NAMES,
  didYouMean,
  type FetchPort,
  isObject,
  type Json,
  type JsonObject,
  jsonMistake,
  Masker,
  type ModelConnection,
  modelsOffered,
  PindroError,
  priceOf,
  settingsOf,
  withoutEnd,
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
/** What a model is offered to see whether it calls tools. */
const WEATHER = {
  name: 'weather',
  description: 'Returns the weather at a hut. Use it when asked for the weather.',
  schema: {
    type: 'object',
    required: ['hut'],
    properties: { hut: { type: 'string', enum: ['kestrel', 'larch', 'stonewater'], description: 'Name of the hut' } },
  },
};

type Way = Pick<AskOptions, 'fetch' | 'secrets' | 'masker' | 'signal'>;
export interface ModelTest {
  answer: string;
  milliseconds: number;
  tools: { works: boolean; says: string };
  tokens: { input: number; output: number; cached: number };
}

export class ModelStore {
  /** Connections as runs ask for them, until anything of any changes. */
  readonly #known = new Map<string, ModelConnection>();

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly outside: { fetch: FetchPort; credentials: CredentialStore },
    private readonly former: FormerNames,
  ) {
    bus.on('removing', (what, name, { take }) => {
      this.#known.clear();
      if (what === 'model') take('models', { name });
    });
    bus.on('changed', (what) => {
      if (what === 'model') this.#known.clear();
    });
    bus.on('undone', () => this.#known.clear());
    bus.on('renamed', (what, from, to) => {
      this.#known.clear();
      if (what === 'credential') this.#followCredential(from, to);
      if (what === 'model') database.update(models).set({ fallback: to }).where(eq(models.fallback, from)).run();
    });
  }

  #followCredential(from: string, to: string): void {
    const { database } = this;
    database.update(models).set({ credential: to }).where(eq(models.credential, from)).run();
    for (const { name, keys } of database.select().from(models).all()) {
      if (!keys?.includes(from)) continue;
      const renamed = keys.map((key) => (key === from ? to : key));
      database.update(models).set({ keys: renamed }).where(eq(models.name, name)).run();
    }
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
      keys: row.keys ?? [],
      settings: settingsOf(row.settings as JsonObject),
      testedAt: row.testedAt === null ? null : new Date(row.testedAt).toISOString(),
    };
  }

  connection(name: string): ModelConnection {
    const known = this.#known.get(name);
    if (known) return known;
    const { testedAt: _, trouble: __, ...row } = this.#row(name);
    const connection = { ...row, keys: row.keys ?? [], settings: row.settings as JsonObject };
    this.#known.set(name, connection);
    return connection;
  }

  usersOf(credential: string): string[] {
    return this.database
      .select()
      .from(models)
      .all()
      .filter((one) => one.credential === credential || one.keys?.includes(credential))
      .map(({ name }) => `model connection "${name}"`);
  }

  /** Connections that ask this one where they cannot answer. */
  leaningOn(name: string): string[] {
    return this.database
      .select({ name: models.name })
      .from(models)
      .where(eq(models.fallback, name))
      .all()
      .map((one) => `model connection "${one.name}"`);
  }

  /** Keeps a connection once its model has answered. @param skipTest also without */
  async add(given: ModelConnection, skipTest = false): Promise<ModelSummary> {
    this.#requireFree(given.name);
    requireDialect(given.dialect);
    const connection = { ...given, base: baseOf(given.base) };
    this.#requireParts(connection);
    if (!skipTest) await this.#hello(connection);
    this.#requireFree(given.name);
    this.database
      .insert(models)
      .values({ ...connection, testedAt: skipTest ? null : Date.now() })
      .run();
    this.bus.changed('model', given.name);
    return this.summary(given.name);
  }

  #requireFree(name: string): void {
    requireName(name, 'model connection');
    if (this.names().includes(name)) throw new PindroError('already_there', { what: 'model connection', name });
    this.former.requireFree('model', 'model connection', name);
  }

  /** @throws not_found, request_invalid where a key or the fallback cannot be what it names */
  #requireParts({ name, keys = [], fallback = null }: ModelConnection): void {
    for (const key of keys) this.outside.credentials.summary(key, []);
    if (fallback === null) return;
    let next: string | null = this.summary(fallback).name;
    for (const seen = new Set([name]); next !== null; next = this.#row(next).fallback) {
      if (seen.has(next)) {
        const why = `"${fallback}" falls back to "${name}": the two would call each other`;
        throw new PindroError('request_invalid', { why }, { at: '/fallback' });
      }
      seen.add(next);
    }
  }

  /** Changes a connection after its model has responded, or without a test. Omitted parts remain. */
  async change(given: string, change: ModelChange): Promise<ModelSummary> {
    const { skipTest, ...parts } = change;
    const before = this.connection(given);
    const told = Object.fromEntries(Object.entries(parts).filter(([, value]) => value !== undefined));
    const connection: ModelConnection = { ...before, ...told };
    connection.base = baseOf(connection.base);
    requireDialect(connection.dialect);
    const { name, credential } = connection;
    this.#requireParts(connection);
    if (credential !== null) this.outside.credentials.summary(credential, []);
    const all = [...(credential === null ? [] : [credential]), ...(connection.keys ?? [])];
    const back = all.map((one) => this.outside.credentials.allow(one, connection.base));
    if (!skipTest)
      await this.#hello(connection).catch((error: unknown) => {
        for (const takeBack of back) takeBack();
        throw error;
      });
    const { name: _, ...values } = connection;
    const tested = skipTest ? {} : { testedAt: Date.now(), trouble: null };
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
    await this.change(name, { base, skipTest: true });
  }

  /** Makes a connection what a file says of it, without asking its model. */
  keepWritten(given: ModelConnection): void {
    requireDialect(given.dialect);
    const { name, ...rest } = given;
    const values = { keys: [], fallback: null, ...rest, base: baseOf(given.base) };
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

  /** Asks the model one short question, has it call a tool, and keeps how that went. */
  async test(name: string): Promise<ModelTest> {
    const connection = this.connection(name);
    const { name: own } = connection;
    const start = performance.now();
    try {
      const { text, usage } = await this.#hello(connection);
      const milliseconds = Math.round(performance.now() - start);
      const tools = await this.#callsTool(connection);
      this.#keepTest(own, null);
      return { answer: text, milliseconds, tools, tokens: usage };
    } catch (error) {
      this.#keepTest(own, asPindroError(error).message);
      throw error;
    }
  }

  /** Asks one question whose answer has a form. @returns the answer with what it took */
  async judge(
    name: string,
    { system, user, schema }: { system: string; user: string; schema: JsonObject },
  ): Promise<{ value: JsonObject; tokens: number; cost: number }> {
    const connection = this.connection(name);
    const turns = [
      { role: 'system' as const, text: system },
      { role: 'user' as const, text: user },
    ];
    const { text, usage } = await this.#inTime(connection, (way) =>
      askModel(connection, turns, [], { ...way, schema }),
    );
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch (error) {
      throw new PindroError('model_garbage', { model: name, why: jsonMistake(error) }, { cause: error });
    }
    const cost = priceOf(settingsOf(connection.settings), usage) ?? 0;
    return { value: isObject(value as Json) ? (value as JsonObject) : {}, tokens: usage.input + usage.output, cost };
  }

  /** The names of the models that the connection's server offers. */
  offers(name: string): Promise<string[]> {
    const connection = this.connection(name);
    return this.#inTime(connection, (way) => modelsOffered(connection, way));
  }

  #hello(connection: ModelConnection): Promise<AskedAnswer> {
    const turns = [{ role: 'user' as const, text: 'Say hello in one short sentence.' }];
    return this.#inTime(connection, (way) => askModel(connection, turns, [], way));
  }

  /** Whether the model calls a tool that it is offered: not every one can. */
  async #callsTool(connection: ModelConnection): Promise<ModelTest['tools']> {
    const turns = [{ role: 'user' as const, text: 'Look up the weather at larch. Use the tool.' }];
    try {
      const { calls } = await this.#inTime(connection, (way) => askModel(connection, turns, [WEATHER], way));
      const [call] = calls;
      if (!call) return { works: false, says: 'The model answered with text instead of a tool call.' };
      const isWell = call.name === WEATHER.name && call.unreadable === undefined;
      return isWell
        ? { works: true, says: `The model called a tool with ${JSON.stringify(call.arguments)}.` }
        : { works: false, says: `The model called "${call.name}" with invalid arguments.` };
    } catch (error) {
      return { works: false, says: asPindroError(error).message };
    }
  }

  async #inTime<T>(connection: ModelConnection, work: (way: Way) => Promise<T>): Promise<T> {
    const limit = new PindroError('timed_out', {
      what: `Model connection "${connection.name}"`,
      limit: `${TEST_LIMIT / 1000}s`,
    });
    const controller = new AbortController();
    const timer = setTimeout(() => controller.abort(limit), TEST_LIMIT);
    try {
      return await work({
        fetch: this.outside.fetch,
        secrets: this.outside.credentials.port,
        masker: new Masker(this.outside.credentials.masker),
        signal: controller.signal,
      });
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

/** Changeable settings of a connection; omitted ones remain. */
export type ModelChange = {
  [K in 'dialect' | 'base' | 'model' | 'credential' | 'keys' | 'fallback' | 'settings']?:
    | ModelConnection[K]
    | undefined;
} & {
  /** Also when it does not answer now. */
  skipTest?: boolean;
};

const baseOf = (text: string) => withoutEnd(requireAddress(text), '/');

function requireDialect(dialect: string): void {
  if (DIALECT_NAMES.includes(dialect)) return;
  throw new PindroError(
    'request_invalid',
    { why: `There is no dialect "${dialect}". ${didYouMean(dialect, DIALECT_NAMES)}` },
    { at: '/dialect' },
  );
}
