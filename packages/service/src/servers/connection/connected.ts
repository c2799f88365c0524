import {
  credentialsIn,
  type Program,
  type ServerLogLine,
  type ServerNetwork,
  type ServerSummary,
} from '@pindro/contract';
import {
  asPindroError,
  type Flag,
  letOthers,
  PindroError,
  PROGRAM_TRANSPORT,
  type ServerDescription,
  type ToolDescription,
} from '@pindro/core';
import { eq } from 'drizzle-orm';
import type { CredentialStore } from '../../credentials/store.js';
import type { FormerNames } from '../../objects/former-names.js';
import { bestEffort } from '../../platform/database/best-effort.js';
import type { Database } from '../../platform/database/open.js';
import type { Bus } from '../../platform/events.js';
import type { Outside } from '../../platform/reach/outside.js';
import type { ProgramApproval, ProgramPolicy } from '../../policy/programs.js';
import type { SecretUse } from '../../policy/secrets.js';
import { CallerConnections } from '../calling/callers.js';
import { Touch } from '../calling/circuit-breaker.js';
import { KeptAnswers } from '../calling/result-cache.js';
import { ServerSamples } from '../calling/samples.js';
import { placeOf, revealKept } from '../calling/secrets.js';
import { askServer, type Said } from '../find.js';
import { type ModelReview, unjudged } from '../review/model-review.js';
import { credentialsOf, type ServerRow } from '../rows.js';
import { servers } from '../tables.js';
import { ServerWatch } from '../watch.js';
import { CallLog } from './activity.js';
import { CONNECT_LIMIT, type Revealed, ServerConnection } from './connection.js';

/** Reason for an agent if a server is disabled. */
const OFF = { tools: [], rules: {}, instructions: '', flagged: {}, since: {} };

/** Connected servers: connected on demand, refreshed periodically, and retried automatically. */
export class ConnectedServers extends ServerWatch {
  protected readonly touch: Touch;
  protected readonly own = new CallerConnections();
  protected readonly kept = new KeptAnswers();
  /** Reviews tools with a model. Set once the models are open. */
  review: ModelReview | null = null;
  readonly calls: CallLog;
  readonly samples: ServerSamples;
  #closed = false;

  constructor(
    database: Database,
    protected readonly bus: Bus,
    protected readonly credentials: CredentialStore,
    protected readonly outside: Outside,
    protected readonly programs: ProgramPolicy,
    former: FormerNames,
    private readonly options: { refreshEvery: number },
  ) {
    super(database, bus, former);
    this.calls = new CallLog(database);
    this.samples = new ServerSamples(database, bus);
    this.touch = new Touch({
      connect: (name) => this.#connect(name),
      isProgram: (name) => this.row(name).program !== null,
      refresh: (name) => this.refresh(name),
      changed: (name) => this.changed(name),
    });
    bus.on('removing', (what, name, { take, needs }) => {
      if (what !== 'server') return;
      // Only an owner lets a program run, or sends everything through a proxy.
      const { program, network } = this.row(name);
      if (program || network.proxy) needs('owner');
      take('servers', { name });
      take('server_lists', { server: name });
      take('server_samples', { server: name });
      this.calls.flush();
      take('server_calls', { server: name });
      void this.letGo(name);
    });
  }

  /** Connects to every server without waiting, and refreshes each periodically. Programs start on demand. */
  start(): void {
    void this.#refreshEach((name) => {
      const { program, tools, off } = this.row(name);
      return !off && (!program || tools.length === 0);
    });
    this.#asking = setInterval(() => this.#retryRequest(), this.options.refreshEvery).unref();
  }

  #asking: NodeJS.Timeout | null = null;
  /** Servers that say when their tools change are followed at once; others are only found out by asking. */
  #retryRequest(): void {
    void this.#refreshEach((name) => {
      const { program, off } = this.row(name);
      if (off) return false;
      const isIdle = program !== null && !this.touch.isOpen(name);
      // What is in trouble is tried again anyway.
      return !isIdle && !this.touch.trouble(name);
    });
  }

  /** Starts refreshes one by one, without waiting for any: sixty connections opened in one turn block the event loop. */
  async #refreshEach(wanted: (name: string) => boolean): Promise<void> {
    for (const name of this.names()) {
      if (this.#closed) return;
      try {
        if (wanted(name)) void this.refresh(name).catch(() => {});
      } catch {
        // It was removed.
      }
      await letOthers();
    }
  }

  async close(): Promise<void> {
    if (this.#closed) return;
    this.#closed = true;
    this.calls.flush();
    if (this.#asking) clearInterval(this.#asking);
    for (const [name, seenAt] of this.touch.allAnswered())
      bestEffort(() => this.database.update(servers).set({ seenAt }).where(eq(servers.name, name)).run());
    await Promise.all([this.touch.close(), this.own.close()]);
  }

  protected override async judge(server: string, tool: ToolDescription): Promise<Flag | null> {
    try {
      return (await this.review?.flagOf(server, tool)) ?? null;
    } catch (error) {
      // Fails closed: the owner wants every tool reviewed before it is used.
      const why = asPindroError(error).message;
      this.touch.log(server).add('pindro', `the review model did not evaluate ${tool.name}: ${why}`, 'warning');
      return unjudged(why);
    }
  }

  protected override changed(name: string): void {
    this.bus.changed('server', name);
  }

  protected state({ name, program, off }: ServerRow): ServerSummary['state'] {
    if (off) return 'off';
    const trouble = this.touch.trouble(name);
    if (trouble) return trouble.code === 'server_wants_key' ? 'refused' : 'unreachable';
    if (program && !this.touch.isOpen(name)) return 'idle';
    return this.touch.answered(name) === undefined ? 'trying' : 'ready';
  }

  /** Recent activity of a server. @param after only lines after this number */
  log(given: string, after = 0): ServerLogLine[] {
    return this.touch.log(this.row(given).name).lines(after);
  }

  /** It was moved or removed: active calls finish. */
  protected async letGo(name: string): Promise<void> {
    this.forget(name);
    this.kept.forget(name);
    // What is being read there says nothing of where it is now.
    this.#refreshing.delete(name);
    this.touch.letGo(name);
    await this.own.endOf(name);
  }

  /** Reconnects with the present credential. */
  async credentialChanged(credential: string): Promise<void> {
    for (const name of this.using(credential)) {
      // Failures of the previous one do not apply.
      this.touch.letGo(name);
      this.kept.forget(name);
      // What was asked with the one before says nothing of this one.
      this.#refreshing.delete(name);
      if (!this.row(name).program) void this.refresh(name).catch(() => {});
    }
    await this.own.endWith(credential);
  }

  readonly #refreshing = new Map<string, Promise<{ added: string[]; removed: string[] }>>();

  /**
   * Refreshes the tool list; concurrent callers share one refresh. @returns the tools added and removed
   * @throws server_off, and what keeps it from answering
   */
  async refresh(given: string): Promise<{ added: string[]; removed: string[] }> {
    const { name, off } = this.row(given);
    if (off) throw new PindroError('server_off', { server: name });
    return this.#refreshOn(name);
  }

  #refreshOn(given: string): Promise<{ added: string[]; removed: string[] }> {
    const name = this.nameOf(given);
    const connection = this.touch.connection(this.row(name).name);
    const under = this.#refreshing.get(name);
    if (under) return under;
    const work = this.#readAnew(name, connection).finally(() => {
      if (this.#refreshing.get(name) === work) this.#refreshing.delete(name);
    });
    this.#refreshing.set(name, work);
    return work;
  }

  /** The tools changed, maybe while they were being read: they are read once more then. */
  #toolsChanged(name: string): void {
    const under = this.#refreshing.get(name) ?? Promise.resolve();
    const again = () => (this.names().includes(name) ? this.refresh(name) : undefined);
    void under.then(again, again).catch(() => {});
  }

  async #readAnew(name: string, connection: ServerConnection): Promise<{ added: string[]; removed: string[] }> {
    const before = this.row(name).tools.map((tool) => tool.name);
    try {
      const tools = await connection.tools(AbortSignal.timeout(CONNECT_LIMIT * 2));
      const heard = { tools, about: connection.about(), instructions: connection.instructions() };
      const flags = await this.lookAt(name, tools);
      // It was moved or removed: the response is discarded.
      if (!this.touch.holds(name, connection)) return { added: [], removed: [] };
      const changes = this.takeIn(name, heard, flags);
      if (changes.length > 0) this.touch.log(name).add('pindro', `its tools changed: ${told(changes)}`, 'warning');
      this.touch.well(name);
      this.changed(name);
      const after = tools.map((tool) => tool.name);
      return {
        added: after.filter((tool) => !before.includes(tool)),
        removed: before.filter((tool) => !after.includes(tool)),
      };
    } catch (thrown) {
      const error = asPindroError(thrown);
      if (!this.touch.holds(name, connection)) throw error;
      if (await this.#speaksOtherwise(name, error))
        return { added: this.row(name).tools.map((tool) => tool.name), removed: [] };
      throw this.touch.troubled(name, error);
    }
  }

  /** How a server speaks that was never heard is found by trying, as when it is attached. */
  async #speaksOtherwise(name: string, error: PindroError): Promise<boolean> {
    if (error.code !== 'server_not_mcp') return false;
    const row = this.names().includes(name) ? this.row(name) : null;
    if (!row || row.seenAt !== null || row.program) return false;
    const found = await this.#askEveryWay(name).catch(() => null);
    if (!found) return false;
    const { speaks, ...heard } = found;
    this.database.update(servers).set({ speaks }).where(eq(servers.name, name)).run();
    this.forget(name);
    this.takeIn(name, heard, await this.lookAt(name, heard.tools));
    await this.letGo(name);
    this.touch.seen(name);
    this.changed(name);
    return true;
  }

  /** How it speaks now, found by trying; null where it does in no way. */
  async speaksNow(given: string): Promise<Said['speaks'] | null> {
    const { name, program } = this.row(given);
    if (program) return PROGRAM_TRANSPORT;
    const found = await this.#askEveryWay(name).catch(() => null);
    return found?.speaks ?? null;
  }

  #askEveryWay(name: string): Promise<Said> {
    const { url, limits } = this.row(name);
    const reveal = () => this.reveal(this.row(name), url);
    return askServer({ ...this.way, name, url, limits, reveal, log: this.touch.log(name) });
  }

  async describe(given: string): Promise<ServerDescription> {
    const { name, off } = this.row(given);
    if (off)
      return {
        ...OFF,
        place: placeOf(this.row(name)),
        unreachable: new PindroError('server_off', { server: name }).toRecord(),
      };
    // One that was never asked may have any tool: why it does not answer says more than that its list is empty.
    if (this.#isUnheard(name)) await this.refresh(name).catch(() => {});
    const row = this.row(name);
    const trouble = this.touch.trouble(name);
    const held = this.heldOf(name).map(({ name: tool, why }) => [tool, why]);
    return {
      ...{ tools: this.tools(name), rules: row.rules, instructions: row.instructions },
      place: placeOf(row),
      flagged: this.flaggedOf(name),
      since: row.toolSince,
      ...(held.length > 0 && { held: Object.fromEntries(held) as Record<string, string> }),
      ...(trouble && { unreachable: trouble }),
    };
  }

  protected override renamedApproval(allowed: string, before: Program | null, now: Program): string {
    const approval = this.programs.stored(allowed, before);
    if (!approval || !before || !this.programs.covers(approval, before)) return allowed;
    return approval.renamed(now).toText();
  }

  /** Somebody's permission to run the program of a server; null where there is none. */
  protected approval({ allowed, program }: Pick<ServerRow, 'allowed' | 'program'>): ProgramApproval | null {
    return this.programs.stored(allowed, program);
  }

  /** Whether somebody allowed the program of a server to run, apart from the content of its files. */
  protected isAllowed(row: Pick<ServerRow, 'allowed' | 'program'>): boolean {
    return row.program === null || this.programs.covers(this.approval(row), row.program);
  }

  #isUnheard(name: string): boolean {
    const { tools, seenAt } = this.row(name);
    return tools.length === 0 && seenAt === null && !this.touch.trouble(name) && !this.touch.answered(name);
  }

  /** Servers that use the previous secret, and until when, by the monotonic clock. */
  protected readonly older = new Map<string, number>();
  protected isOlder = (name: string) => (this.older.get(name) ?? 0) > performance.now();

  #connect(name: string): ServerConnection {
    const { url, speaks, program, limits } = this.row(name);
    const again = () => void this.refresh(name).catch(() => {});
    return new ServerConnection({
      ...this.way,
      ...{ name, url, speaks, limits, log: this.touch.log(name) },
      ...(program && { permit: () => this.programs.permit(name, program, this.approval(this.row(name))) }),
      reveal: () => this.reveal(this.row(name), url, this.isOlder(name)),
      onToolsChanged: () => this.#toolsChanged(name),
      onRest: () => this.changed(name),
      // It may only have ended its stream; whether it is still there is asked. A program is started when it is needed.
      onLost: (error) => {
        if (!program) return again();
        this.touch.troubled(name, asPindroError(error));
      },
    });
  }

  /** What is sent with each request to a server, or passed to its program. */
  protected reveal(
    row: Pick<ServerRow, 'headers' | 'credential' | 'also' | 'program' | 'network'>,
    url: string,
    older = false,
  ): Revealed {
    const use = { url: placeOf({ url, program: row.program ?? null }) };
    const own = credentialsOf({ ...row, program: null, network: {} }).map((name) =>
      older ? this.credentials.revealFormer(name, use) : this.credentials.reveal(name, use),
    );
    const values = row.program ? [this.valuesOf(row.program, use)] : [];
    return revealKept([{ headers: row.headers, secrets: [] }, ...own, ...values, this.networkOf(row.network, use)]);
  }

  /** The way to a server, with the certificate that we show there. */
  protected networkOf({ ca, proxy, certificate }: ServerNetwork, use: SecretUse): Revealed {
    const identity = certificate === undefined ? undefined : this.credentials.value(certificate, use);
    const network = { ...(ca && { ca }), ...(proxy && { proxy }), ...(identity && { identity }) };
    return { headers: {}, secrets: identity ? [identity] : [], network };
  }

  /** What a program is given of credentials. @param others that are known already */
  protected valuesOf(program: Program, use: SecretUse, others: readonly string[] = []): Revealed {
    const names = credentialsIn(program).filter((name) => !others.includes(name));
    const values = Object.fromEntries(names.map((name) => [name, this.credentials.value(name, use)]));
    return { headers: {}, secrets: Object.values(values), values };
  }

  /** What every connection needs. */
  protected get way() {
    return { outside: this.outside, below: this.credentials.masker };
  }
}

const told = (changes: readonly { tool: string; kind: string }[]) =>
  changes
    .slice(0, 10)
    .map(({ tool, kind }) => `${tool} (${kind})`)
    .join(', ');
