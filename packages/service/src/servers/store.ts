import type {
  Program,
  ProgramFingerprint,
  ProgramPermission,
  ServerDetail,
  ServerLimits,
  ServerNetwork,
  ServerSummary,
  Speaks,
} from '@pindro/contract';
import { commandLine, credentialsIn } from '@pindro/contract';
import {
  type ArgumentRules,
  type Caller,
  DEFAULT_TRANSPORT,
  type Json,
  type JsonObject,
  mergeArguments,
  ownOf,
  PindroError,
  PROGRAM_TRANSPORT,
  rulesFor,
  Template,
  type ToolDescription,
} from '@pindro/core';
import { eq } from 'drizzle-orm';
import { requireAddress } from '../platform/names.js';
import { reasonOf } from '../platform/reason.js';
import { type Authority, NOBODY } from '../policy/authority.js';
import type { ProgramApproval } from '../policy/programs.js';
import type { PartByPart } from './attach/attach-stages.js';
import { type ChangedRow, changedRow, isElsewhere } from './attach/changed-row.js';
import { CallableServers } from './calling/calling.js';
import { readRules, requireFit, requireNetwork, type ServerChange } from './calling/rules.js';
import {
  type Carried,
  keepCarried,
  namesFor,
  placeOf,
  requireCarried,
  revealCarried,
  revealKept,
} from './calling/secrets.js';
import type { Revealed } from './connection/connection.js';
import { askServer, type Said } from './find.js';
import { credentialsOf, type ServerRow } from './rows.js';
import { servers } from './tables.js';

/** Progress of attaching a server. */
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
  network?: ServerNetwork | undefined;
  watch?: ServerRow['watch'] | undefined;
  speaks?: Speaks | undefined;
  /** Saves it without a test: it is retried automatically. */
  skipTest?: boolean | undefined;
  /** Who attaches it: only some may run programs of the machine. */
  by?: Authority | undefined;
}

/** Secrets of a program and its network settings. */
const OF_ITSELF = { program: null, network: {} };
const UNHEARD = { tools: [], about: '', instructions: '' };
interface Testing {
  name: string;
  url: string;
  program: Program | null;
  parts?: PartByPart | undefined;
}

const bearer = (secret: string): Carried => ({ kind: 'bearer', account: '', secret });
/** External MCP servers: attached once, and reconnected automatically. */
export class ServerStore extends CallableServers {
  list(): ServerSummary[] {
    return this.names().map((name) => this.summary(name));
  }

  summary(given: string): ServerSummary {
    const row = this.row(given);
    const { name, url, program, speaks, credential, also, headers, limits, network, watch, instructions, about } = row;
    const trouble = this.touch.trouble(name);
    const until = this.touch.leftAloneUntil(name);
    return {
      ...{ name, url, program: program ?? null, where: program ? commandLine(program) : url },
      allowed: this.isAllowed(row),
      needsApproval: !this.isAllowed(row) || trouble?.code === 'program_changed',
      speaks,
      state: this.state(row),
      leftAloneUntil: isoOf(until),
      trouble: trouble?.message ?? null,
      fix: trouble?.hint ?? null,
      ...{ credential, also, headers, limits, network, watch },
      tools: row.tools.length,
      held: this.heldCount(name),
      seenAt: isoOf(this.touch.answered(name) ?? row.seenAt),
      ...{ instructions, about },
    };
  }

  /**
   * Returns the arguments of a call by hand with the rules of the server applied, as every other call has them.
   * @throws argument_governed, arguments_refused, rule_breaks_tool
   */
  withRules(given: string, tool: string, args: JsonObject, caller: Caller): JsonObject {
    const row = this.row(given);
    const own = row.tools.find(({ name }) => name === tool);
    const rules = own ? rulesFor(own, row.rules) : {};
    if (!own || Object.keys(rules).length === 0) return args;
    const scope = { caller: { ...caller.attributes, id: caller.id } };
    const { value } = new Template(rules as unknown as Json, ['rules']).fill(scope);
    return mergeArguments(own, (value ?? rules) as unknown as ArgumentRules, args);
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

  /** Attaches a server once it has answered with its tools; nothing is kept otherwise. */
  async attach(
    { credential = null, secret, carried = [], headers = {}, ...given }: Attaching,
    parts?: PartByPart,
  ): Promise<void> {
    this.requireFree(given.name);
    const rules = readRules(given.rules);
    const all: Carried[] = [...(secret === undefined ? [] : [bearer(secret)]), ...carried];
    requireCarried(all);
    const trial = given.program?.(namesFor('trial', all, [])) ?? null;
    const approval = trial && (await this.programs.approve(given.by ?? NOBODY, trial, given.name));
    requireNetwork(given.network);
    const url = trial ? '' : requireAddress(given.url);
    const { network = {} } = given;
    const reveal = (): Revealed => {
      const fresh = revealCarried(all, namesFor('trial', all, []));
      const kept = trial
        ? this.valuesOf(trial, { trial: placeOf({ url, program: trial }) }, Object.keys(fresh.values ?? {}))
        : fresh;
      return revealKept([this.reveal({ headers, credential, also: [], program: null, network }, url), kept, fresh]);
    };
    const log = this.touch.log(given.name);
    const { limits = {}, watch = 'flagged' } = given;
    const permit = trial ? () => this.programs.permit(given.name, trial, approval) : undefined;
    const way = { ...this.way, name: given.name, url, permit, limits, reveal, log, parts };
    if (!given.skipTest) await this.#firstParts({ ...way, program: trial });
    const { speaks, ...heard } = given.skipTest
      ? { speaks: trial ? PROGRAM_TRANSPORT : (given.speaks ?? DEFAULT_TRANSPORT), ...UNHEARD }
      : await askServer(way, trial ? PROGRAM_TRANSPORT : given.speaks);
    requireFit(rules, heard.tools);
    const flags = await this.lookAt(given.name, heard.tools);
    parts?.gone.throwIfAborted();
    this.database.driver
      .transaction(() => {
        // Somebody else may have been quicker.
        this.requireFree(given.name);
        const names = namesFor(given.name, all, this.credentials.names());
        const program = given.program?.(names) ?? null;
        const place = placeOf({ url, program });
        keepCarried(this.credentials, given.name, place, all, names);
        for (const one of program ? credentialsIn(program) : []) this.credentials.allow(one, place);
        const along = program ? [] : names;
        const [first = null, ...also] = credential === null ? along : [credential, ...along];
        const allowed = program && approval ? approval.renamed(program).toText() : null;
        const seen = given.skipTest
          ? { ...heard, accepted: null, held: {}, seenAt: null }
          : this.firstSight(given.name, heard, watch, flags);
        this.database
          .insert(servers)
          .values({
            ...{ name: given.name, url, program, allowed, credential: first, also, headers, rules },
            ...{ limits, network, watch, speaks, ...seen },
          })
          .run();
        if (!given.skipTest) this.noteList(given.name, 'attached', heard.tools);
      })
      .immediate();
    if (!given.skipTest) this.touch.seen(given.name);
    this.changed(given.name);
    // Whoever listens hears of changes at once.
    if (!trial) void this.refresh(given.name).catch(() => {});
  }

  /** First stage of a test: the name to resolve, or the program to start. */
  async #firstParts({ name, url, program, parts }: Testing): Promise<void> {
    if (!parts) return;
    if (program) {
      parts.begin('program');
      return;
    }
    const hostname = new URL(url).hostname.replace(/^\[|\]$/g, '');
    parts.begin('name');
    const addresses = await this.outside.addressesOf(url).catch((error: unknown) => {
      throw error instanceof PindroError
        ? error
        : new PindroError('server_unreachable', { server: name, why: reasonOf(error) }, { cause: error });
    });
    const isNumber = addresses?.length === 1 && addresses[0] === hostname;
    const found = isNumber ? 'nothing to resolve' : `${hostname} is ${addresses?.join(', ')}`;
    parts.done('name', addresses === null ? `the proxy finds ${hostname}` : found);
    parts.begin('reach');
  }

  /** Changes the address and credentials of a server. Nothing is changed unless it responds, or the test is skipped. */
  async change(given: string, change: ServerChange): Promise<void> {
    const before = this.row(given);
    const { name } = before;
    const { secret, program } = change;
    const approval = program ? await this.programs.approve(change.by ?? NOBODY, program, name) : this.approval(before);
    if (secret !== undefined) requireCarried([bearer(secret)]);
    const now = changedRow(before, change);
    for (const one of credentialsOf(now)) this.credentials.summary(one, []);
    const moved = isElsewhere(before, now) || secret !== undefined || change.anew === true;
    const heard = moved && !change.skipTest ? await this.#heardThere(before, now, approval, secret) : null;
    requireFit(now.rules, heard?.tools ?? before.tools);
    const flags = heard && (await this.lookAt(name, heard.tools));
    this.database.driver
      .transaction(() => {
        const place = placeOf(now);
        const credential =
          secret === undefined ? now.credential : this.#keepSecret(name, now.credential, secret, place);
        for (const one of credentialsOf({ ...now, credential })) this.credentials.allow(one, place);
        const speaks = now.program ? PROGRAM_TRANSPORT : (heard?.speaks ?? before.speaks);
        this.database
          .update(servers)
          .set({ ...now, credential, speaks, ...(program && approval && { allowed: approval.toText() }) })
          .where(eq(servers.name, name))
          .run();
        this.forget(name);
        if (heard && flags) {
          const { speaks: _, ...said } = heard;
          this.takeIn(name, said, flags);
        }
        this.changed(name);
      })
      .immediate();
    // Other rules and another watch hold at once, also for what is open.
    if (!moved && JSON.stringify(now.limits) === JSON.stringify(before.limits)) return;
    await this.letGo(name);
    // What just answered is there.
    if (heard) this.touch.seen(name);
    if (!now.program) void this.refresh(name).catch(() => {});
  }

  /** Tools of a server at its new address, with its new credentials. */
  #heardThere(
    { name, speaks }: ServerRow,
    now: ChangedRow,
    approval: ProgramApproval | null,
    secret?: string,
  ): Promise<Said> {
    const fresh = secret === undefined ? [] : [bearer(secret)];
    const kept = credentialsOf({ ...now, credential: secret === undefined ? now.credential : null, ...OF_ITSELF });
    // Whether it may go there is settled only once the server answers.
    const use = { trial: placeOf(now) };
    const reveal = (): Revealed =>
      revealKept([
        { headers: now.headers, secrets: [] },
        ...kept.map((one) => this.credentials.reveal(one, use)),
        revealCarried(fresh),
        ...(now.program ? [this.valuesOf(now.program, use)] : []),
        this.networkOf(now.network, use),
      ]);
    const { url, program, limits } = now;
    const permit = program ? () => this.programs.permit(name, program, approval) : undefined;
    const way = { ...this.way, name, url, permit, limits, reveal, log: this.touch.log(name) };
    if (program) return askServer(way, PROGRAM_TRANSPORT);
    return askServer(way, speaks === PROGRAM_TRANSPORT ? undefined : speaks);
  }

  /** What a person reviews before they allow the program of a server, and what was allowed before. */
  async permission(given: string): Promise<ProgramPermission> {
    const row = this.row(given);
    const program = this.#requireProgram(row);
    const approval = this.approval(row);
    const fingerprint = await this.programs.fingerprint(program);
    const before = approval && { by: approval.by, fingerprint: approval.fingerprint };
    return { allowed: this.isAllowed(row), fingerprint, before };
  }

  #requireProgram({ name, program }: ServerRow): Program {
    if (program) return program;
    throw new PindroError('request_invalid', { why: `Tool server "${name}" is not a program` });
  }

  /**
   * Allows the program of a server to run, as somebody reviewed it.
   * @throws role_too_low, program_forbidden, program_changed where it is no longer what they saw
   */
  async allow(given: string, by: Authority, seen: ProgramFingerprint): Promise<void> {
    const row = this.row(given);
    const { name } = row;
    const approval = await this.programs.approve(by, this.#requireProgram(row), name, seen);
    this.database.update(servers).set({ allowed: approval.toText() }).where(eq(servers.name, name)).run();
    await this.letGo(name);
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

  /** The server's address has changed: the next call reconnects. */
  async move(name: string, url: string): Promise<void> {
    await this.change(name, { url, skipTest: true });
  }

  /** Gives the row its new name; what names it follows elsewhere. */
  callOtherwise(from: string, to: string): void {
    this.database.update(servers).set({ name: to }).where(eq(servers.name, from)).run();
    this.renameLists(from, to);
    this.samples.rename(from, to);
    this.calls.rename(from, to);
    void this.letGo(from);
  }

  /** Makes a server what a file says of it, without asking it; its tools are those of the file until it answers. */
  keepWritten(
    given: Pick<ServerRow, 'name' | 'url' | 'speaks' | 'credential' | 'also' | 'headers' | 'tools' | 'about'> &
      Pick<ServerRow, 'instructions' | 'limits' | 'network' | 'watch'> & { rules: JsonObject; program: Program | null },
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
    void this.letGo(name);
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
}

const isoOf = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());
