import type { Program, ServerDetail, ServerSummary, Speaks } from '@pindro/contract';
import { commandLine } from '@pindro/contract';
import {
  type ArgumentRules,
  asJson,
  type Caller,
  type JsonObject,
  mergeArguments,
  ownOf,
  PindroError,
  rulesFor,
  type ServerDescription,
  Template,
  type ToolDescription,
  type ToolResult,
  type ToolServerPort,
} from '@pindro/core';
import type { CredentialStore } from '../credentials/store.js';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireAddress } from '../platform/names.js';
import type { Outside } from '../platform/reach/outside.js';
import type { ProgramPolicy } from '../policy/programs.js';
import type { PartByPart } from './attach/attach-stages.js';
import { type Attaching, ServerAttacher } from './attach/attacher.js';
import { ServerEditor } from './attach/editor.js';
import { readRules, type ServerChange } from './calling/rules.js';
import { ServerSamples } from './calling/samples.js';
import { placeOf } from './calling/secrets.js';
import { ToolCaller } from './calling/tool-caller.js';
import { CallLog } from './connection/activity.js';
import { ConnectionPool } from './connection/pool.js';
import { type Refreshed, ToolRefresh } from './connection/refresh.js';
import { ServerRepository, type ServerRow } from './repository.js';
import { ToolWatch } from './watch.js';

/** Description of a disabled server for an agent. */
const OFF = { tools: [], rules: {}, instructions: '', flagged: {}, since: {} };

interface Options {
  database: Database;
  bus: Bus;
  credentials: CredentialStore;
  outside: Outside;
  programs: ProgramPolicy;
  former: FormerNames;
  /** Milliseconds between two refreshes of a server. */
  refreshEvery: number;
}

/** Attached MCP servers: what is stored of them, their tools under watch, connections and calls. */
export class ServerStore implements ToolServerPort {
  readonly repository: ServerRepository;
  readonly watch: ToolWatch;
  readonly pool: ConnectionPool;
  readonly editor: ServerEditor;
  readonly calls: CallLog;
  readonly samples: ServerSamples;
  readonly #attacher: ServerAttacher;
  readonly #refresh: ToolRefresh;
  readonly #caller: ToolCaller;
  readonly #changed: (name: string) => void;

  constructor({ database, bus, credentials, outside, programs, former, refreshEvery }: Options) {
    const changed = (name: string) => bus.changed('server', name);
    this.#changed = changed;
    const repository = new ServerRepository(database, bus, former, programs);
    const warn = (name: string, text: string) => this.pool.touch.log(name).add('pindro', text, 'warning');
    const watch = new ToolWatch({ repository, warn, changed });
    const connecting = { repository, credentials, outside, programs, refreshEvery, changed };
    const pool = new ConnectionPool({ ...connecting, refresh: () => this.#refresh });
    const refresh = new ToolRefresh(repository, watch, pool, changed);
    this.calls = new CallLog(database);
    this.samples = new ServerSamples(database, bus);
    this.#caller = new ToolCaller({ repository, pool, refresh, credentials, log: this.calls });
    const attaching = { repository, watch, pool, refresh, credentials, programs, changed };
    this.#attacher = new ServerAttacher(attaching);
    this.editor = new ServerEditor(attaching);
    this.repository = repository;
    this.watch = watch;
    this.pool = pool;
    this.#refresh = refresh;
    bus.on('removing', (what, name, { take, needs }) => {
      if (what !== 'server') return;
      // Only an owner lets a program run, or sends everything through a proxy.
      const { program, network } = repository.row(name);
      if (program || network.proxy) needs('owner');
      take('servers', { name });
      take('server_lists', { server: name });
      take('server_samples', { server: name });
      this.calls.flush();
      take('server_calls', { server: name });
      void pool.letGo(name);
    });
  }

  async close(): Promise<void> {
    this.calls.flush();
    await this.pool.close();
  }

  /** Attaches a server once it has answered with its tools; nothing is kept otherwise. @param parts told of each stage */
  attach(given: Attaching, parts?: PartByPart): Promise<void> {
    return this.#attacher.attach(given, parts);
  }

  /** Changes a server. Nothing is changed unless it responds, or the test is skipped. */
  change(name: string, change: ServerChange): Promise<void> {
    return this.editor.change(name, change);
  }

  /** Reads the tool list of a server again. @throws server_off, and what keeps it from answering */
  refresh(name: string): Promise<Refreshed> {
    return this.#refresh.refresh(name);
  }

  /** How a server speaks now, found by trying; null where it does in no way. */
  speaksNow(name: string): Promise<Speaks | null> {
    return this.#refresh.speaksNow(name);
  }

  call(...given: Parameters<ToolServerPort['call']>): Promise<ToolResult> {
    return this.#caller.call(...given);
  }

  async describe(given: string): Promise<ServerDescription> {
    const { name, off } = this.repository.row(given);
    if (off)
      return {
        ...OFF,
        place: placeOf(this.repository.row(name)),
        unreachable: new PindroError('server_off', { server: name }).toRecord(),
      };
    // One that was never asked may have any tool: why it does not answer says more than that its list is empty.
    if (this.#isUnheard(name)) await this.#refresh.refresh(name).catch(() => {});
    const row = this.repository.row(name);
    const trouble = this.pool.touch.trouble(name);
    const held = this.repository.heldOf(name).map(({ name: tool, why }) => [tool, why]);
    return {
      ...{ tools: this.repository.tools(name), rules: row.rules, instructions: row.instructions },
      place: placeOf(row),
      flagged: this.watch.flaggedOf(name),
      since: row.toolSince,
      ...(held.length > 0 && { held: Object.fromEntries(held) as Record<string, string> }),
      ...(trouble && { unreachable: trouble }),
    };
  }

  #isUnheard(name: string): boolean {
    const { tools, seenAt } = this.repository.row(name);
    return tools.length === 0 && seenAt === null && !this.pool.touch.trouble(name) && !this.pool.touch.answered(name);
  }

  names(): string[] {
    return this.repository.names();
  }

  list(): ServerSummary[] {
    return this.names().map((name) => this.summary(name));
  }

  summary(given: string): ServerSummary {
    const row = this.repository.row(given);
    const { name, url, program, speaks, credential, also, headers, limits, network, watch, instructions, about } = row;
    const trouble = this.pool.touch.trouble(name);
    const until = this.pool.touch.leftAloneUntil(name);
    return {
      ...{ name, url, program: program ?? null, where: program ? commandLine(program) : url },
      allowed: this.repository.isAllowed(row),
      needsApproval: !this.repository.isAllowed(row) || trouble?.code === 'program_changed',
      speaks,
      state: this.pool.state(row),
      leftAloneUntil: isoOf(until),
      trouble: trouble?.message ?? null,
      fix: trouble?.hint ?? null,
      ...{ credential, also, headers, limits, network, watch },
      tools: row.tools.length,
      held: this.watch.heldCount(name),
      seenAt: isoOf(this.pool.touch.answered(name) ?? row.seenAt),
      ...{ instructions, about },
    };
  }

  /**
   * Returns the arguments of a call by hand with the rules of the server applied, as every other call has them.
   * @throws argument_governed, arguments_refused, rule_breaks_tool
   */
  withRules(given: string, tool: string, args: JsonObject, caller: Caller): JsonObject {
    const row = this.repository.row(given);
    const own = row.tools.find(({ name }) => name === tool);
    const rules = own ? rulesFor(own, row.rules) : {};
    if (!own || Object.keys(rules).length === 0) return args;
    const scope = { caller: { ...caller.attributes, id: caller.id } };
    const { value } = new Template(asJson(rules), ['rules']).fill(scope);
    return mergeArguments(own, (value ?? rules) as unknown as ArgumentRules, args);
  }

  detail(name: string, usedBy: string[], usedTools: ServerDetail['usedTools']): ServerDetail {
    const row = this.repository.row(name);
    const allowed = this.calls.allowed(row.name);
    const shown = ({ name, title, description = '', inputSchema, outputSchema, annotations }: ToolDescription) => ({
      ...{ name, description, inputSchema, allowed: ownOf(allowed, name) ?? null },
      ...(title !== undefined && { title }),
      ...(outputSchema && { outputSchema }),
      ...(annotations && { annotations }),
    });
    return {
      ...this.summary(name),
      toolList: this.repository.tools(name).map(shown),
      heldTools: this.repository.heldOf(name),
      rules: row.rules,
      usedBy,
      usedTools,
    };
  }

  /** Gives the row its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void {
    this.repository.update(from, { name: to });
    this.watch.renameLists(from, to);
    this.samples.rename(from, to);
    this.calls.rename(from, to);
    void this.pool.letGo(from);
  }

  /** Makes a server what a file says of it, without asking it; its tools are those of the file until it answers. */
  keepWritten(
    given: Pick<ServerRow, 'name' | 'url' | 'speaks' | 'credential' | 'also' | 'headers' | 'tools' | 'about'> &
      Pick<ServerRow, 'instructions' | 'limits' | 'network' | 'watch'> & { rules: JsonObject; program: Program | null },
  ): void {
    const isNew = !this.repository.names().includes(given.name);
    if (isNew) this.repository.requireFree(given.name);
    const { name, tools, url, rules, program, ...rest } = given;
    const values = { ...rest, program, url: program ? '' : requireAddress(url), rules: readRules(rules) };
    if (isNew) this.repository.insert({ name, ...values, tools, seenAt: null });
    else this.repository.update(name, values);
    void this.pool.letGo(name);
    this.#changed(name);
  }

  /** The same server under another name. */
  copy(from: string, to: string): void {
    const row = this.repository.row(from);
    this.repository.requireFree(to);
    this.repository.insert({ ...row, name: to });
    this.#changed(to);
  }
}

const isoOf = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());
