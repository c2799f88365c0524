import type { Program, ServerDetail, ServerLimits, ServerLogLine, ServerSummary, Speaks } from '@pindro/contract';
import { commandLine } from '@pindro/contract';
import {
  asPindroError,
  type JsonObject,
  ownOf,
  PindroError,
  type ServerDescription,
  type ToolDescription,
  type ToolProgress,
  type ToolResult,
  type ToolServerPort,
} from '@pindro/core';
import { eq } from 'drizzle-orm';
import type { CredentialStore } from '../credentials/store.js';
import type { FormerNames } from '../objects/former-names.js';
import { bestEffort } from '../platform/database/best-effort.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireAddress } from '../platform/names.js';
import type { Outside } from '../platform/reach/outside.js';
import type { ProgramPolicy } from '../platform/reach/programs.js';
import { CallLog } from './activity.js';
import { CallerConnections } from './callers.js';
import { CONNECT_LIMIT, type Revealed, ServerConnection } from './connection.js';
import { askServer } from './find.js';
import { KeptAnswers, keyOf } from './kept.js';
import { Pace } from './pace.js';
import { credentialsOf, type ServerRow } from './rows.js';
import { readRules, requireFit, type ServerChange } from './rules.js';
import { ServerSamples } from './samples.js';
import {
  type Carried,
  keepCarried,
  namesFor,
  placeOf,
  requireCarried,
  revealCarried,
  revealKept,
  runnable,
} from './secrets.js';
import { servers } from './tables.js';
import { Touch } from './touch.js';
import { ServerWatch } from './watch.js';

/** What is told of a server that is to be attached. */
export interface Attaching {
  name: string;
  url: string;
  /** A program of this machine in place of an address, made with the names of its credentials in the order of `carried`. */
  program?: ((names: readonly string[]) => Program) | undefined;
  credential?: string | null;
  /** A bearer key, kept as a credential. */
  secret?: string | undefined;
  /** Further secrets, each kept as a credential. */
  carried?: Carried[];
  /** Headers that are nobody's secret. */
  headers?: Record<string, string>;
  rules: JsonObject;
  limits?: ServerLimits | undefined;
  watch?: ServerRow['watch'] | undefined;
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
  /** How old an answer of a tool that only reads may be, in milliseconds. */
  fresh?: number;
  onProgress?: (progress: ToolProgress) => void;
}
const metaOf = ({ traceparent, idempotencyKey }: ToolCallOptions): JsonObject => ({
  traceparent,
  'pindro/idempotency-key': idempotencyKey,
});

/** Errors that say something of the server, not of one call. */
const TROUBLES = [
  'server_unreachable',
  'server_wants_key',
  'program_not_started',
  'program_ended',
  'program_babbles',
  'program_forbidden',
  'program_not_allowed',
];

/** Somebody else's MCP servers: attached once, kept in touch with, and reconnected by themselves. */
export class ServerStore extends ServerWatch implements ToolServerPort {
  readonly #touch: Touch;
  readonly #own = new CallerConnections();
  readonly #pace = new Pace();
  readonly #kept = new KeptAnswers();
  readonly calls: CallLog;
  readonly samples: ServerSamples;
  #closed = false;

  constructor(
    database: Database,
    private readonly bus: Bus,
    private readonly credentials: CredentialStore,
    private readonly outside: Outside,
    private readonly programs: ProgramPolicy,
    former: FormerNames,
    private readonly options: { refreshEvery: number },
  ) {
    super(database, bus, former);
    this.calls = new CallLog(database);
    this.samples = new ServerSamples(database, bus);
    this.#touch = new Touch({
      connect: (name) => this.#connect(name),
      isProgram: (name) => this.row(name).program !== null,
      refresh: (name) => this.refresh(name),
      changed: (name) => this.changed(name),
    });
    bus.on('removing', (what, name, { take }) => {
      if (what !== 'server') return;
      take('servers', { name });
      take('server_lists', { server: name });
      take('server_samples', { server: name });
      this.calls.flush();
      take('server_calls', { server: name });
      void this.#letGo(name);
    });
  }

  /**
   * Gets in touch with every attached server, without waiting for any, and asks each anew from time to time. A program
   * is started when it is needed.
   */
  start(): void {
    for (const name of this.names()) {
      const { program, tools } = this.row(name);
      if (!program || tools.length === 0) void this.refresh(name).catch(() => {});
    }
    this.#asking = setInterval(() => this.#askAnew(), this.options.refreshEvery).unref();
  }

  #asking: NodeJS.Timeout | null = null;
  /** Servers that say when their tools change are followed at once; others are only found out by asking. */
  #askAnew(): void {
    for (const name of this.names()) {
      const isIdle = this.row(name).program !== null && !this.#touch.isOpen(name);
      // What is in trouble is tried again anyway.
      if (!isIdle && !this.#touch.trouble(name)) void this.refresh(name).catch(() => {});
    }
  }

  async close(): Promise<void> {
    if (this.#closed) return;
    this.#closed = true;
    this.calls.flush();
    if (this.#asking) clearInterval(this.#asking);
    for (const [name, seenAt] of this.#touch.allAnswered())
      bestEffort(() => this.database.update(servers).set({ seenAt }).where(eq(servers.name, name)).run());
    await Promise.all([this.#touch.close(), this.#own.close()]);
  }

  protected override changed(name: string): void {
    this.bus.changed('server', name);
  }

  list(): ServerSummary[] {
    return this.names().map((name) => this.summary(name));
  }

  summary(given: string): ServerSummary {
    const row = this.row(given);
    const { name, url, program, speaks, credential, also, headers, limits, watch, instructions, about } = row;
    const trouble = this.#touch.trouble(name);
    const until = this.#touch.leftAloneUntil(name);
    return {
      ...{ name, url, program: program ?? null, where: program ? commandLine(program) : url },
      allowed: isAllowed(row),
      speaks,
      state: this.#state(row),
      leftAloneUntil: isoOf(until),
      trouble: trouble?.message ?? null,
      fix: trouble?.hint ?? null,
      ...{ credential, also, headers, limits, watch },
      tools: row.tools.length,
      held: this.heldCount(name),
      seenAt: isoOf(this.#touch.answered(name) ?? row.seenAt),
      ...{ instructions, about },
    };
  }

  #state({ name, program }: ServerRow): ServerSummary['state'] {
    const trouble = this.#touch.trouble(name);
    if (trouble) return trouble.code === 'server_wants_key' ? 'refused' : 'unreachable';
    if (program && !this.#touch.isOpen(name)) return 'resting';
    return this.#touch.answered(name) === undefined ? 'trying' : 'ready';
  }

  detail(name: string, usedBy: string[], usedTools: ServerDetail['usedTools']): ServerDetail {
    const row = this.row(name);
    const allowed = this.calls.allowed(row.name);
    const shown = ({ name, title, description = '', inputSchema, outputSchema, annotations }: ToolDescription) => ({
      ...{ name, description, inputSchema, allowed: ownOf(allowed, name) ?? null },
      ...(title !== undefined && { title }),
      ...(outputSchema && { outputSchema }),
      ...(annotations && { annotations }),
    });
    return {
      ...this.summary(name),
      toolList: this.tools(name).map(shown) as ServerDetail['toolList'],
      heldTools: this.heldOf(name),
      rules: row.rules as ServerDetail['rules'],
      usedBy,
      usedTools,
    };
  }

  /** What happened with a server lately. @param after only what came after the line of this number */
  log(given: string, after = 0): ServerLogLine[] {
    return this.#touch.log(this.row(given).name).lines(after);
  }

  /** Attaches a server once it has answered with its tools; nothing is kept otherwise. */
  async attach({ credential = null, secret, carried = [], headers = {}, ...given }: Attaching): Promise<void> {
    this.requireFree(given.name);
    const rules = readRules(given.rules);
    const all: Carried[] = [...(secret === undefined ? [] : [bearer(secret)]), ...carried];
    requireCarried(all);
    const trial = given.program?.(namesFor('trial', all, [])) ?? null;
    if (trial) this.programs.require(runnable(trial));
    const url = trial ? '' : requireAddress(given.url);
    const reveal = (): Revealed => {
      const fresh = revealCarried(all, namesFor('trial', all, []));
      return revealKept([this.#reveal({ headers, credential, also: [], program: null }, url), fresh]);
    };
    const log = this.#touch.log(given.name);
    const { limits = {}, watch = 'flagged' } = given;
    const way = { ...this.#way, name: given.name, url, program: trial, limits, reveal, log };
    const { speaks, ...heard } = await askServer(way, trial ? 'stdio' : given.speaks);
    requireFit(rules, heard.tools);
    this.database.driver
      .transaction(() => {
        // Somebody else may have been quicker.
        this.requireFree(given.name);
        const names = namesFor(given.name, all, this.credentials.names());
        const program = given.program?.(names) ?? null;
        keepCarried(this.credentials, given.name, placeOf({ url, program }), all, names);
        const along = program ? [] : names;
        const [first = null, ...also] = credential === null ? along : [credential, ...along];
        const allowed = program && JSON.stringify(program);
        const seen = this.firstSight(given.name, heard, watch);
        this.database
          .insert(servers)
          .values({
            ...{ name: given.name, url, program, allowed, credential: first, also, headers, rules },
            ...{ limits, watch, speaks, ...seen },
          })
          .run();
        this.noteList(given.name, 'attached', heard.tools);
      })
      .immediate();
    this.#touch.seen(given.name);
    this.changed(given.name);
    // Whoever listens hears of changes at once.
    if (!trial) void this.refresh(given.name).catch(() => {});
  }

  /** Ends what is open to a server: it is elsewhere now, or gone. */
  async #letGo(name: string): Promise<void> {
    this.forget(name);
    this.#kept.forget(name);
    await Promise.all([this.#touch.letGo(name), this.#own.endOf(name)]);
  }

  /** Changes where a server is and what goes along. Nothing is changed unless it answers so, or need not be asked. */
  async change(given: string, change: ServerChange): Promise<void> {
    const { name, ...before } = this.row(given);
    const program = change.program === undefined ? (before.program ?? null) : change.program;
    if (program && change.program) this.programs.require(runnable(program));
    const url = change.url === undefined ? before.url : requireAddress(change.url);
    if (!program && url === '')
      throw new PindroError('request_invalid', { why: 'It needs an address' }, { at: '/url' });
    const isProgram = program !== null && change.url === undefined;
    const rules = change.rules === undefined ? before.rules : readRules(change.rules);
    const { secret } = change;
    if (secret !== undefined) requireCarried([bearer(secret)]);
    let credential = change.credential === undefined ? before.credential : change.credential;
    const also = change.also ?? before.also;
    const headers = change.headers ?? before.headers;
    const limits = change.limits ?? before.limits;
    const watch = change.watch ?? before.watch;
    const own = isProgram ? program : null;
    for (const one of credentialsOf({ credential, also, program: own })) this.credentials.summary(one, []);
    const now = { url: own ? '' : url, program: own, credential, also, headers };
    const was = {
      ...{ url: before.url, program: before.program ?? null, credential: before.credential },
      ...{ also: before.also, headers: before.headers },
    };
    const moved = JSON.stringify(now) !== JSON.stringify(was) || secret !== undefined;
    let speaks: Speaks = own ? 'stdio' : before.speaks;
    if (moved && !change.untested) {
      const fresh = secret === undefined ? [] : [bearer(secret)];
      const kept = credentialsOf({ credential: secret === undefined ? credential : null, also, program: null });
      // Whether it may go there is settled only once the server answers.
      const reveal = (): Revealed =>
        revealKept([
          { headers, secrets: [] },
          ...kept.map((one) => this.credentials.reveal(one)),
          revealCarried(fresh),
          ...(own ? [this.#valuesOf(own)] : []),
        ]);
      const log = this.#touch.log(name);
      const asked = { ...this.#way, name, url: now.url, program: own, limits, reveal, log };
      const { speaks: found, ...heard } = await askServer(asked, speaks === 'stdio' && !own ? undefined : speaks);
      speaks = found;
      requireFit(rules, heard.tools);
      this.takeIn(name, heard);
    } else requireFit(rules, before.tools);
    this.database.driver
      .transaction(() => {
        const place = placeOf(now);
        if (secret !== undefined) credential = this.#keepSecret(name, credential, secret, place);
        for (const one of credentialsOf({ credential, also, program: own })) this.credentials.allow(one, place);
        this.database
          .update(servers)
          .set({
            ...{ ...now, credential, rules, limits, watch, speaks },
            ...(change.program && { allowed: JSON.stringify(own) }),
          })
          .where(eq(servers.name, name))
          .run();
        this.changed(name);
      })
      .immediate();
    await this.#letGo(name);
    // What just answered is there.
    if (moved && !change.untested) this.#touch.seen(name);
    if (!own) void this.refresh(name).catch(() => {});
  }

  /** Lets the program of a server run that came out of a file. */
  async allow(given: string): Promise<void> {
    const { name, program } = this.row(given);
    if (!program) throw new PindroError('request_invalid', { why: `Tool server "${name}" is no program` });
    this.programs.require(runnable(program));
    this.database
      .update(servers)
      .set({ allowed: JSON.stringify(program) })
      .where(eq(servers.name, name))
      .run();
    await this.#letGo(name);
    this.changed(name);
    await this.refresh(name);
  }

  /** Renews the secret of the credential a server has, or makes it one. @returns its name */
  #keepSecret(server: string, credential: string | null, secret: string, place: string): string {
    if (credential !== null) {
      this.credentials.change(credential, { secret });
      this.credentials.allow(credential, place);
      return credential;
    }
    const all = [bearer(secret)];
    const names = namesFor(server, all, this.credentials.names());
    keepCarried(this.credentials, server, place, all, names);
    return names[0]!;
  }

  /** The server's address has changed: the next call connects anew. */
  async move(name: string, url: string): Promise<void> {
    await this.change(name, { url, untested: true });
  }

  /** Gives the row its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void {
    this.database.update(servers).set({ name: to }).where(eq(servers.name, from)).run();
    this.renameLists(from, to);
    this.samples.rename(from, to);
    this.calls.rename(from, to);
    void this.#letGo(from);
  }

  /** Makes a server what a file says of it, without asking it; its tools are those of the file until it answers. */
  keepWritten(
    given: Pick<ServerRow, 'name' | 'url' | 'speaks' | 'credential' | 'also' | 'headers' | 'tools' | 'about'> &
      Pick<ServerRow, 'instructions' | 'limits' | 'watch'> & { rules: JsonObject; program: Program | null },
  ): void {
    const isNew = !this.names().includes(given.name);
    if (isNew) this.requireFree(given.name);
    const { name, tools, url, rules, program, ...rest } = given;
    const values = { ...rest, program, url: program ? '' : requireAddress(url), rules: readRules(rules) };
    if (isNew)
      this.database
        .insert(servers)
        .values({ name, ...values, tools, seenAt: null })
        .run();
    else this.database.update(servers).set(values).where(eq(servers.name, name)).run();
    void this.#letGo(name);
    this.changed(name);
  }

  /** The same server under another name. */
  copy(from: string, to: string): void {
    const row = this.row(from);
    this.requireFree(to);
    this.database
      .insert(servers)
      .values({ ...row, name: to })
      .run();
    this.changed(to);
  }

  /** Connects anew with what the credential holds now. */
  async credentialChanged(credential: string): Promise<void> {
    for (const name of this.using(credential)) {
      await this.#touch.hangUp(name);
      this.#kept.forget(name);
      // What was asked with the one before says nothing of this one.
      this.#refreshing.delete(name);
      if (!this.row(name).program) void this.refresh(name).catch(() => {});
    }
    await this.#own.endWith(credential);
  }

  readonly #refreshing = new Map<string, Promise<{ added: string[]; removed: string[] }>>();

  /** Reads the tool list anew; whoever asks while that is being done gets the same. @returns what came and went */
  refresh(given: string): Promise<{ added: string[]; removed: string[] }> {
    const name = this.nameOf(given);
    const connection = this.#touch.connection(this.row(name).name);
    const under = this.#refreshing.get(name);
    if (under) return under;
    const work = this.#readAnew(name, connection).finally(() => {
      if (this.#refreshing.get(name) === work) this.#refreshing.delete(name);
    });
    this.#refreshing.set(name, work);
    return work;
  }

  async #readAnew(name: string, connection: ServerConnection): Promise<{ added: string[]; removed: string[] }> {
    const before = this.row(name).tools.map((tool) => tool.name);
    try {
      const tools = await connection.tools(AbortSignal.timeout(CONNECT_LIMIT * 2));
      // It was moved or taken out meanwhile: what it said there is of no use here.
      if (!this.names().includes(name) || this.#touch.connection(name) !== connection)
        return { added: [], removed: [] };
      const changes = this.takeIn(name, {
        tools,
        about: connection.about(),
        instructions: connection.instructions(),
      });
      if (changes.length > 0) this.#touch.log(name).add('pindro', `its tools changed: ${told(changes)}`, 'warning');
      this.#touch.well(name);
      this.changed(name);
      const after = tools.map((tool) => tool.name);
      return {
        added: after.filter((tool) => !before.includes(tool)),
        removed: before.filter((tool) => !after.includes(tool)),
      };
    } catch (error) {
      throw this.#touch.troubled(name, asPindroError(error));
    }
  }

  async describe(given: string): Promise<ServerDescription> {
    const row = this.row(given);
    const { name } = row;
    const trouble = this.#touch.trouble(name);
    const held = this.heldOf(name).map(({ name: tool, why }) => [tool, why]);
    return {
      ...{ tools: this.tools(name), rules: row.rules, instructions: row.instructions },
      ...(held.length > 0 && { held: Object.fromEntries(held) as Record<string, string> }),
      ...(trouble && { unreachable: trouble }),
    };
  }

  async call(given: string, tool: string, args: JsonObject, options: ToolCallOptions): Promise<ToolResult> {
    const { name, limits } = this.row(given);
    this.requireNotHeld(name, tool);
    const { credential, signal, fresh = 0 } = options;
    const key = fresh > 0 && this.#onlyReads(name, tool) ? keyOf(name, tool, args, credential) : null;
    const kept = key && this.#kept.find(key, fresh);
    if (kept) return kept;
    const begun = Date.now();
    const noted = (code: string | null) =>
      this.calls.note({
        ...{ server: name, tool, at: begun, took: Date.now() - begun, code },
        ...{ run: options.idempotencyKey.split('/')[0] || null, credential: credential ?? null },
      });
    try {
      const result = await this.#pace.run(name, limits, signal, () =>
        credential === undefined
          ? this.#callRepeating(name, tool, args, options)
          : this.#callFor(credential, name, tool, args, options),
      );
      noted(result.isError ? 'tool_reported_error' : null);
      if (key) this.#kept.keep(key, name, result);
      return result;
    } catch (error) {
      noted(signal.aborted ? 'cancelled' : asPindroError(error).code);
      throw error;
    }
  }

  /** What may be repeated is called once more where the connection was lost under it. */
  async #callRepeating(name: string, tool: string, args: JsonObject, options: ToolCallOptions): Promise<ToolResult> {
    try {
      return await this.#callOnce(name, tool, args, options);
    } catch (thrown) {
      const isLost = thrown instanceof PindroError && thrown.code === 'server_lost';
      if (!isLost || options.signal.aborted || !this.#isRepeatable(name, tool)) throw thrown;
      this.#touch.log(name).add('pindro', `${tool} only reads, and is called again: the connection was lost`);
      return this.#callOnce(name, tool, args, options);
    }
  }

  #says(name: string, tool: string): JsonObject {
    return this.row(name).tools.find((one) => one.name === tool)?.annotations ?? {};
  }
  #onlyReads(name: string, tool: string): boolean {
    return this.#says(name, tool).readOnlyHint === true;
  }
  #isRepeatable(name: string, tool: string): boolean {
    return this.#onlyReads(name, tool) || this.#says(name, tool).idempotentHint === true;
  }

  async #callOnce(name: string, tool: string, args: JsonObject, options: ToolCallOptions): Promise<ToolResult> {
    await this.#touch.ready(name, options.signal);
    const connection = this.#touch.connection(name);
    try {
      const result = await connection.call(tool, args, metaOf(options), options);
      this.#touch.well(name);
      this.#noteUse(name, 'taken');
      return result;
    } catch (thrown) {
      if (options.signal.aborted) throw thrown;
      const error = asPindroError(thrown);
      if (error.code === 'server_wants_key') this.#noteUse(name, 'refused');
      if (TROUBLES.includes(error.code)) throw this.#touch.troubled(name, error);
      // Whether only the call was lost, or the server with it, is told by asking.
      if (error.code === 'server_lost' && !this.row(name).program) void this.refresh(name).catch(() => {});
      throw error;
    }
  }

  #noteUse(name: string, how: 'taken' | 'refused'): void {
    for (const one of credentialsOf(this.row(name))) this.credentials.used(one, how);
  }

  /** Calls with a credential of the caller's own. What goes wrong with it says nothing of the server. */
  async #callFor(
    credential: string,
    name: string,
    tool: string,
    args: JsonObject,
    options: ToolCallOptions,
  ): Promise<ToolResult> {
    const { url, speaks, program, limits } = this.row(name);
    if (program) throw new PindroError('program_is_shared', { server: name }, { details: { server: name } });
    const reveal = () => this.credentials.reveal(credential, { url });
    const log = this.#touch.log(name);
    const connection = this.#own.get(
      name,
      credential,
      () => new ServerConnection({ ...this.#way, name, url, speaks, limits, reveal, log }),
    );
    try {
      const result = await connection.call(tool, args, metaOf(options), options);
      this.credentials.used(credential, 'taken');
      return result;
    } catch (thrown) {
      if (options.signal.aborted) throw thrown;
      const error = asPindroError(thrown);
      if (error.code !== 'server_wants_key') throw error;
      this.credentials.used(credential, 'refused');
      throw new PindroError('own_credential_refused', { server: name, credential }, { details: { server: name } });
    }
  }

  #connect(name: string): ServerConnection {
    const { url, speaks, program, limits } = this.row(name);
    const again = () => void this.refresh(name).catch(() => {});
    return new ServerConnection({
      ...this.#way,
      ...{ name, url, speaks, limits, program: program ?? null, log: this.#touch.log(name) },
      reveal: () => {
        const row = this.row(name);
        if (program && !isAllowed(row)) throw new PindroError('program_not_allowed', { server: name });
        if (program) this.programs.require(runnable(program));
        return this.#reveal(row, url);
      },
      onToolsChanged: again,
      onRest: () => this.changed(name),
      // It may only have ended its stream; whether it is still there is asked. A program is started when it is needed.
      onLost: (error) => {
        if (!program) return again();
        this.#touch.troubled(name, asPindroError(error));
      },
    });
  }

  /** What goes along with each request to a server, or what its program is given. */
  #reveal(row: Pick<ServerRow, 'headers' | 'credential' | 'also' | 'program'>, url: string): Revealed {
    const use = { url: placeOf({ url, program: row.program ?? null }) };
    const own = credentialsOf({ ...row, program: null }).map((name) => this.credentials.reveal(name, use));
    const values = row.program ? [this.#valuesOf(row.program, use)] : [];
    return revealKept([{ headers: row.headers, secrets: [] }, ...own, ...values]);
  }

  #valuesOf(program: Program, use?: { url: string }): Revealed {
    const names = credentialsOf({ credential: null, also: [], program });
    const values = Object.fromEntries(names.map((name) => [name, this.credentials.value(name, use)]));
    return { headers: {}, secrets: Object.values(values), values };
  }

  /** What every connection needs. */
  get #way() {
    return { outside: this.outside, below: this.credentials.masker };
  }
}

/** Whether the program of a server may be run: somebody who may run programs has said so of just this one. */
const isAllowed = ({ program, allowed }: Pick<ServerRow, 'program' | 'allowed'>): boolean =>
  !program || allowed === JSON.stringify(program);
const isoOf = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());
const told = (changes: readonly { tool: string; kind: string }[]) =>
  changes
    .slice(0, 10)
    .map(({ tool, kind }) => `${tool} (${kind})`)
    .join(', ');
