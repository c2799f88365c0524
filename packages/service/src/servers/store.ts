import type { ServerDetail, ServerSummary, Speaks } from '@pindro/contract';
import {
  asPindroError,
  type ErrorRecord,
  type JsonObject,
  PindroError,
  type RevealedSecret,
  type ServerDescription,
  type ToolDescription,
  type ToolProgress,
  type ToolResult,
  type ToolServerPort,
} from '@pindro/core';
import { eq } from 'drizzle-orm';
import { together } from '../credentials/along.js';
import type { CredentialStore } from '../credentials/store.js';
import type { FormerNames } from '../objects/former-names.js';
import { bestEffort } from '../platform/database/best-effort.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireAddress } from '../platform/names.js';
import type { Outside } from '../platform/reach/outside.js';
import { CallerConnections } from './callers.js';
import { CONNECT_LIMIT, ServerConnection } from './connection.js';
import { askServer } from './find.js';
import { credentialsOf, type ServerRow, ServerRows } from './rows.js';
import { readRules, requireFit, type ServerChange } from './rules.js';
import { type Carried, keepCarried, requireCarried, revealCarried } from './secrets.js';
import { servers } from './tables.js';

interface Attached {
  connection: ServerConnection;
  trouble: ErrorRecord | null;
  /** When to try again by itself, and after how long. */
  retry: NodeJS.Timeout | null;
  wait: number;
}

/** What is told of a server that is to be attached. */
export interface Attaching {
  name: string;
  url: string;
  credential?: string | null;
  /** A bearer key, kept as a credential. */
  secret?: string | undefined;
  /** Further secrets, each kept as a credential. */
  carried?: Carried[];
  /** Headers that are nobody's secret. */
  headers?: Record<string, string>;
  rules: JsonObject;
  speaks?: Speaks | undefined;
}

const bearer = (secret: string): Carried => ({ kind: 'bearer', account: '', secret });
interface ToolCallOptions {
  signal: AbortSignal;
  traceparent: string;
  idempotencyKey: string;
  credential?: string;
  /** How long the call may take, in milliseconds. */
  limit?: number;
  onProgress?: (progress: ToolProgress) => void;
}
const metaOf = ({ traceparent, idempotencyKey }: ToolCallOptions): JsonObject => ({
  traceparent,
  'pindro/idempotency-key': idempotencyKey,
});

/** Errors that say something of the server, not of one call. */
const TROUBLES = ['server_unreachable', 'server_wants_key'];
const FIRST_WAIT = 1000;
const LONGEST_WAIT = 15_000;

/** Somebody else's MCP servers: attached once, kept in touch with, and reconnected by themselves. */
export class ServerStore extends ServerRows implements ToolServerPort {
  readonly #attached = new Map<string, Attached>();
  readonly #own = new CallerConnections();
  /** When each last answered, in milliseconds since the epoch; written down at the next look at its tools, and at the end. */
  readonly #answered = new Map<string, number>();
  #closed = false;

  constructor(
    database: Database,
    private readonly bus: Bus,
    private readonly credentials: CredentialStore,
    private readonly outside: Outside,
    former: FormerNames,
  ) {
    super(database, bus, former);
    bus.on('removing', (what, name, { take }) => {
      if (what === 'server') take('servers', { name });
      if (what === 'server') void this.#letGo(name);
    });
  }

  /** Gets in touch with every attached server, without waiting for any. */
  start(): void {
    for (const name of this.names()) void this.refresh(name).catch(() => {});
  }

  async close(): Promise<void> {
    if (this.#closed) return;
    this.#closed = true;
    for (const [name, seenAt] of this.#answered)
      bestEffort(() => this.database.update(servers).set({ seenAt }).where(eq(servers.name, name)).run());
    for (const { connection, retry } of this.#attached.values()) {
      if (retry) clearTimeout(retry);
      await connection.close();
    }
    await this.#own.close();
  }

  list(): ServerSummary[] {
    return this.names().map((name) => this.summary(name));
  }

  summary(given: string): ServerSummary {
    const row = this.row(given);
    const { name } = row;
    const trouble = this.#attached.get(name)?.trouble ?? null;
    return {
      name,
      url: row.url,
      speaks: row.speaks,
      state:
        trouble === null
          ? this.#answered.has(name)
            ? 'ready'
            : 'trying'
          : trouble.code === 'server_wants_key'
            ? 'refused'
            : 'unreachable',
      trouble: trouble?.message ?? null,
      fix: trouble?.hint ?? null,
      credential: row.credential,
      also: row.also,
      headers: row.headers,
      tools: row.tools.length,
      seenAt: isoOf(this.#answered.get(name) ?? row.seenAt),
      instructions: row.instructions,
      about: row.about,
    };
  }

  detail(name: string, usedBy: string[]): ServerDetail {
    const row = this.row(name);
    const toolList = row.tools.map((tool) => ({
      name: tool.name,
      ...(tool.title !== undefined && { title: tool.title }),
      description: tool.description ?? '',
      inputSchema: tool.inputSchema,
    }));
    return {
      ...this.summary(name),
      toolList: toolList as ServerDetail['toolList'],
      rules: row.rules as ServerDetail['rules'],
      usedBy,
    };
  }

  /** Attaches a server once it has answered with its tools; nothing is kept otherwise. */
  async attach({ credential = null, secret, carried = [], headers = {}, ...given }: Attaching): Promise<void> {
    this.requireFree(given.name);
    const url = requireAddress(given.url);
    const rules = readRules(given.rules);
    const all: Carried[] = [...(secret === undefined ? [] : [bearer(secret)]), ...carried];
    requireCarried(all);
    const reveal = () => together([this.#reveal({ headers, credential, also: [] }, url), revealCarried(all)]);
    const said = await askServer({ ...this.#way, name: given.name, url, reveal }, given.speaks);
    requireFit(rules, said.tools);
    this.database.driver
      .transaction(() => {
        // Somebody else may have been quicker.
        this.requireFree(given.name);
        const kept = keepCarried(this.credentials, given.name, url, all);
        const [first = null, ...also] = credential === null ? kept : [credential, ...kept];
        this.database
          .insert(servers)
          .values({ name: given.name, url, credential: first, also, headers, rules, ...said, seenAt: Date.now() })
          .run();
      })
      .immediate();
    this.#answered.set(given.name, Date.now());
    this.bus.changed('server', given.name);
  }

  /** Ends what is open to a server: it is elsewhere now, or gone. */
  async #letGo(name: string): Promise<void> {
    this.forget(name);
    this.#answered.delete(name);
    const attached = this.#attached.get(name);
    this.#attached.delete(name);
    if (attached?.retry) clearTimeout(attached.retry);
    await attached?.connection.close();
    await this.#own.endOf(name);
  }

  /** Changes where a server is and what goes along. Nothing is changed unless it answers so, or need not be asked. */
  async change(given: string, change: ServerChange): Promise<void> {
    const { name, ...before } = this.row(given);
    const url = change.url === undefined ? before.url : requireAddress(change.url);
    const rules = change.rules === undefined ? before.rules : readRules(change.rules);
    const { secret } = change;
    if (secret !== undefined) requireCarried([bearer(secret)]);
    let credential = change.credential === undefined ? before.credential : change.credential;
    const also = change.also ?? before.also;
    const headers = change.headers ?? before.headers;
    for (const one of credentialsOf({ credential, also })) this.credentials.summary(one, []);
    const now = { url, credential, also, headers };
    const was = { url: before.url, credential: before.credential, also: before.also, headers: before.headers };
    const moved = JSON.stringify(now) !== JSON.stringify(was) || secret !== undefined;
    if (moved && !change.untested) {
      // Whether it may go there is settled only once the server answers.
      const kept = credentialsOf({ credential: secret === undefined ? credential : null, also });
      const own = () => kept.map((one) => this.credentials.reveal(one));
      const fresh = secret === undefined ? [] : [bearer(secret)];
      const reveal = () => together([{ headers, secrets: [] }, ...own(), revealCarried(fresh)]);
      const said = await askServer({ ...this.#way, name, url, reveal }, before.speaks);
      requireFit(rules, said.tools);
      this.database
        .update(servers)
        .set({ ...said, seenAt: Date.now() })
        .where(eq(servers.name, name))
        .run();
    } else requireFit(rules, before.tools);
    this.database.driver
      .transaction(() => {
        if (secret !== undefined) credential = this.#keepSecret(name, credential, secret, url);
        for (const one of credentialsOf({ credential, also })) this.credentials.allow(one, url);
        this.database
          .update(servers)
          .set({ url, credential, also, headers, rules })
          .where(eq(servers.name, name))
          .run();
        this.bus.changed('server', name);
      })
      .immediate();
    await this.#letGo(name);
    // What just answered is there.
    if (moved && !change.untested) this.#answered.set(name, Date.now());
    void this.refresh(name).catch(() => {});
  }

  /** Renews the secret of the credential a server has, or makes it one. @returns its name */
  #keepSecret(server: string, credential: string | null, secret: string, url: string): string {
    if (credential !== null) {
      this.credentials.change(credential, { secret });
      this.credentials.allow(credential, url);
      return credential;
    }
    return keepCarried(this.credentials, server, url, [bearer(secret)])[0]!;
  }

  /** The server's address has changed: the next call connects anew. */
  async move(name: string, url: string): Promise<void> {
    await this.change(name, { url, untested: true });
  }

  /** Gives the row its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void {
    this.database.update(servers).set({ name: to }).where(eq(servers.name, from)).run();
    void this.#letGo(from);
  }

  /** Makes a server what a file says of it, without asking it; its tools are those of the file until it answers. */
  keepWritten(given: {
    name: string;
    url: string;
    speaks: Speaks;
    credential: string | null;
    also: string[];
    headers: Record<string, string>;
    rules: JsonObject;
    tools: ToolDescription[];
    about: string;
    instructions: string;
  }): void {
    const isNew = !this.names().includes(given.name);
    if (isNew) this.requireFree(given.name);
    const { credential, also, headers, tools, about, instructions, speaks } = given;
    const along = { speaks, credential, also, headers };
    const values = { url: requireAddress(given.url), ...along, rules: readRules(given.rules), about, instructions };
    if (isNew)
      this.database
        .insert(servers)
        .values({ name: given.name, ...values, tools, seenAt: null })
        .run();
    else this.database.update(servers).set(values).where(eq(servers.name, given.name)).run();
    void this.#letGo(given.name);
    this.bus.changed('server', given.name);
  }

  /** The same server under another name. */
  copy(from: string, to: string): void {
    const row = this.row(from);
    this.requireFree(to);
    this.database
      .insert(servers)
      .values({ ...row, name: to })
      .run();
    this.bus.changed('server', to);
  }

  /** Connects anew with what the credential holds now. */
  async credentialChanged(credential: string): Promise<void> {
    for (const name of this.using(credential)) {
      await this.#attached.get(name)?.connection.close();
      void this.refresh(name).catch(() => {});
    }
    await this.#own.endWith(credential);
  }

  /** Reads the tool list anew. @returns what came and went */
  async refresh(given: string): Promise<{ added: string[]; removed: string[] }> {
    const name = this.nameOf(given);
    const before = this.row(name).tools.map((tool) => tool.name);
    const { connection } = this.#connection(name);
    try {
      const tools = await connection.tools(AbortSignal.timeout(CONNECT_LIMIT * 2));
      this.database
        .update(servers)
        .set({
          tools,
          about: connection.about(),
          instructions: connection.instructions(),
          seenAt: Date.now(),
        })
        .where(eq(servers.name, name))
        .run();
      this.forget(name);
      this.#well(name);
      this.bus.changed('server', name);
      const after = tools.map((tool) => tool.name);
      return {
        added: after.filter((tool) => !before.includes(tool)),
        removed: before.filter((tool) => !after.includes(tool)),
      };
    } catch (error) {
      throw this.#troubled(name, asPindroError(error));
    }
  }

  async describe(given: string): Promise<ServerDescription> {
    const row = this.row(given);
    const { name } = row;
    const { trouble } = this.#connection(name);
    return { tools: row.tools, rules: row.rules, ...(trouble && { unreachable: trouble }) };
  }

  async call(given: string, tool: string, args: JsonObject, options: ToolCallOptions): Promise<ToolResult> {
    const name = this.nameOf(given);
    if (options.credential !== undefined) return this.#callFor(options.credential, name, tool, args, options);
    const { connection } = this.#connection(name);
    try {
      const result = await connection.call(tool, args, metaOf(options), options);
      this.#well(name);
      return result;
    } catch (thrown) {
      if (options.signal.aborted) throw thrown;
      const error = asPindroError(thrown);
      if (TROUBLES.includes(error.code)) throw this.#troubled(name, error);
      // Whether only the call was lost, or the server with it, is told by asking.
      if (error.code === 'server_lost') void this.refresh(name).catch(() => {});
      throw error;
    }
  }

  /** Calls with a credential of the caller's own. What goes wrong with it says nothing of the server. */
  async #callFor(
    credential: string,
    name: string,
    tool: string,
    args: JsonObject,
    options: ToolCallOptions,
  ): Promise<ToolResult> {
    const { url, speaks } = this.row(name);
    const reveal = () => this.credentials.reveal(credential, { url });
    const connection = this.#own.get(
      name,
      credential,
      () => new ServerConnection({ ...this.#way, name, url, speaks, reveal }),
    );
    try {
      return await connection.call(tool, args, metaOf(options), options);
    } catch (thrown) {
      if (options.signal.aborted) throw thrown;
      const error = asPindroError(thrown);
      if (error.code === 'server_wants_key')
        throw new PindroError('own_credential_refused', { server: name, credential }, { details: { server: name } });
      throw error;
    }
  }

  #connection(name: string): Attached {
    let attached = this.#attached.get(name);
    if (!attached) {
      const { url, speaks } = this.row(name);
      const connection = new ServerConnection({
        ...this.#way,
        name,
        url,
        speaks,
        reveal: () => this.#reveal(this.row(name), url),
        onToolsChanged: () => void this.refresh(name).catch(() => {}),
        // It may only have ended its stream; whether it is still there is asked.
        onLost: () => void this.refresh(name).catch(() => {}),
      });
      attached = { connection, trouble: null, retry: null, wait: FIRST_WAIT };
      this.#attached.set(name, attached);
    }
    return attached;
  }

  #well(name: string): void {
    const isFirst = !this.#answered.has(name);
    this.#answered.set(name, Date.now());
    const attached = this.#connection(name);
    if (attached.retry) clearTimeout(attached.retry);
    const wasTroubled = attached.trouble !== null;
    Object.assign(attached, { trouble: null, retry: null, wait: FIRST_WAIT });
    if (wasTroubled || isFirst) this.bus.changed('server', name);
  }

  /** Remembers the trouble and tries again by itself, at growing intervals. */
  #troubled(name: string, error: PindroError): PindroError {
    const attached = this.#attached.get(name);
    if (!attached || this.#closed) return error;
    const fresh = attached.trouble?.code !== error.code;
    attached.trouble = error.toRecord();
    if (!attached.retry) {
      attached.retry = setTimeout(() => {
        attached.retry = null;
        void this.refresh(name).catch(() => {});
      }, attached.wait).unref();
      attached.wait = Math.min(attached.wait * 2, LONGEST_WAIT);
    }
    if (fresh) this.bus.changed('server', name);
    return error;
  }

  /** What goes along with each request to a server. */
  #reveal(row: Pick<ServerRow, 'headers' | 'credential' | 'also'>, url: string): RevealedSecret {
    const own = credentialsOf(row).map((name) => this.credentials.reveal(name, { url }));
    return together([{ headers: row.headers, secrets: [] }, ...own]);
  }

  /** What every connection needs. */
  get #way() {
    return { outside: this.outside, below: this.credentials.masker };
  }
}

const isoOf = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());
