import { credentialsIn, type Program, type ProgramValue, type ServerNetwork } from '@pindro/contract';
import {
  type ArgumentRules,
  didYouMean,
  type Held,
  PindroError,
  type ToolDescription,
  usableTools,
} from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { freeName, requireName } from '../platform/names.js';
import type { ProgramApproval, ProgramPolicy } from '../policy/programs.js';
import { servers } from './tables.js';

export type ServerRow = Omit<typeof servers.$inferSelect, 'program'> & {
  program: Program | null;
  tools: ToolDescription[];
  rules: ArgumentRules;
  headers: Record<string, string>;
  also: string[];
};

/** All credentials that a server, or its program, has to do with. */
export const credentialsOf = ({
  credential,
  also,
  program,
  network = {},
}: Pick<ServerRow, 'credential' | 'also' | 'program'> & { network?: ServerNetwork }): string[] => [
  ...(credential === null ? [] : [credential]),
  ...also,
  ...(program ? credentialsIn(program) : []),
  ...(network.certificate === undefined ? [] : [network.certificate]),
];

/** Stores which servers are attached and what is known of each, whether they answer or not. */
export class ServerRepository {
  /** What is known of each, as it is on disk: lists of tools are long, and asked for many times in a row. */
  readonly #rows = new Map<string, ServerRow>();

  constructor(
    readonly database: Database,
    bus: Bus,
    private readonly former: FormerNames,
    private readonly programs: ProgramPolicy,
  ) {
    bus.on('undone', () => this.#rows.clear());
    bus.on('renamed', (what, from, to) => {
      if (what !== 'credential') return;
      for (const name of this.using(from)) {
        const { credential, also, program, allowed, network } = this.row(name);
        const called = (one: string) => (one === from ? to : one);
        const calling = program && withCredentials(program, called);
        const now = {
          ...{ credential: credential && called(credential), also: also.map(called), program: calling },
          ...(network.certificate === from && { network: { ...network, certificate: to } }),
          ...(calling && allowed && { allowed: this.#renamedApproval(allowed, program, calling) }),
        };
        this.update(name, now);
      }
    });
  }

  /** An approval as stored, where the credentials of its program have other names now. */
  #renamedApproval(allowed: string, before: Program | null, now: Program): string {
    const approval = this.programs.stored(allowed, before);
    if (!approval || !before || !this.programs.covers(approval, before)) return allowed;
    return approval.renamed(now).toText();
  }

  /** Changes what is stored of a server. */
  update(name: string, values: Partial<typeof servers.$inferInsert>): void {
    this.database.update(servers).set(values).where(eq(servers.name, name)).run();
    this.forget(name);
  }

  insert(values: typeof servers.$inferInsert): void {
    this.database.insert(servers).values(values).run();
  }

  /** Reads a server from disk at the next question. */
  forget(name: string): void {
    this.#rows.delete(name);
  }

  /** What the server of a name, or a former one, is called now. */
  nameOf(given: string): string {
    return this.former.present('server', given);
  }

  names(): string[] {
    return this.database
      .select({ name: servers.name })
      .from(servers)
      .orderBy(asc(servers.name))
      .all()
      .map(({ name }) => name);
  }

  /** Usable tools as last listed, without those on hold. */
  tools(name: string): ToolDescription[] {
    const { tools, held } = this.row(name);
    return Object.keys(held).length === 0 ? tools : usableTools(tools, held);
  }

  /** A tool that the server had when it was last asked. @throws tool_unknown */
  requireTool(name: string, tool: string): void {
    this.requireNotHeld(name, tool);
    const known = this.tools(name).map((one) => one.name);
    if (known.length === 0 || known.includes(tool)) return;
    const suggestion = `${didYouMean(tool, known)} If it is new, refresh the server.`;
    throw new PindroError('tool_unknown', { tool, where: `tool server "${name}"`, suggestion });
  }

  /** @throws tool_held */
  requireNotHeld(name: string, tool: string): void {
    const { held } = this.row(name);
    const one = Object.hasOwn(held, tool) ? held[tool]! : null;
    if (one)
      throw new PindroError(
        'tool_held',
        { server: name, tool, why: whyHeld(one) },
        { details: { server: name, tool } },
      );
  }

  rules(name: string): ArgumentRules {
    return this.row(name).rules;
  }

  instructions(name: string): string {
    return this.row(name).instructions;
  }

  /** Every server's tools that may be used, under former names too. */
  allTools(): Record<string, ToolDescription[]> {
    return Object.fromEntries(this.#allNames().map((name) => [name, this.tools(name)]));
  }

  /** All tools of every server as last listed, including those on hold: references to them are valid. */
  allSeen(): Record<string, ToolDescription[]> {
    return Object.fromEntries(this.#allNames().map((name) => [name, this.row(name).tools]));
  }

  /** Tools of a server on hold, with the reason. */
  heldOf(name: string): { name: string; why: string }[] {
    return Object.entries(this.row(name).held).map(([tool, held]) => ({ name: tool, why: whyHeld(held) }));
  }

  /** All tools of a server as last listed, including those on hold. */
  seen(name: string): ToolDescription[] {
    return this.row(name).tools;
  }

  #allNames(): string[] {
    return [...this.names(), ...this.former.all('server')];
  }

  /** Why a tool is on hold, or null. */
  whyHeld(name: string, tool: string): string | null {
    const { held } = this.row(name);
    return Object.hasOwn(held, tool) ? whyHeld(held[tool]!) : null;
  }

  /** Rules that stand on servers, under former names too. */
  allRules(): Record<string, ArgumentRules> {
    return Object.fromEntries(this.#allNames().map((name) => [name, this.rules(name)]));
  }

  /** Somebody's permission to run the program of a server; null where there is none. */
  approval({ allowed, program }: Pick<ServerRow, 'allowed' | 'program'>): ProgramApproval | null {
    return this.programs.stored(allowed, program);
  }

  /** Whether somebody allowed the program of a server to run, apart from the content of its files. */
  isAllowed(row: Pick<ServerRow, 'allowed' | 'program'>): boolean {
    return row.program === null || this.programs.covers(this.approval(row), row.program);
  }

  usersOf(credential: string): string[] {
    return this.using(credential).map((name) => `tool server "${name}"`);
  }

  /** Servers that use a credential. */
  using(credential: string): string[] {
    return this.names().filter((name) => credentialsOf(this.row(name)).includes(credential));
  }

  /** A name like this one that no server has, and none had. */
  freeName(wanted: string): string {
    return freeName(wanted, [...this.names(), ...this.former.all('server')]);
  }

  requireFree(name: string): void {
    requireName(name, 'tool server');
    if (this.names().includes(name)) throw new PindroError('already_there', { what: 'tool server', name });
    this.former.requireFree('server', 'tool server', name);
  }

  row(given: string): ServerRow {
    // What is known by a name is called so now: looking up former names is left to the rest.
    const known = this.#rows.get(given) ?? this.#rows.get(this.nameOf(given));
    if (known) return known;
    const name = this.nameOf(given);
    const row = this.database.select().from(servers).where(eq(servers.name, name)).get() as ServerRow | undefined;
    if (!row)
      throw new PindroError('not_found', { what: 'tool server', name, suggestion: didYouMean(name, this.names()) });
    this.#rows.set(name, row);
    return row;
  }
}

/** Why a tool is on hold, as text. */
export function whyHeld({ flags, refused }: Held): string {
  if (refused !== undefined) return `${refused} rejected its present version`;
  const [first] = flags;
  return first ? `${first.says.charAt(0).toLowerCase()}${first.says.slice(1)}` : 'it differs from the accepted version';
}

/** A program with its credentials by other names. */
function withCredentials(program: Program, called: (name: string) => string): Program {
  const value = (one: ProgramValue) => (typeof one === 'string' ? one : { ...one, credential: called(one.credential) });
  const env = Object.fromEntries(Object.entries(program.env).map(([name, one]) => [name, value(one)]));
  return { ...program, args: program.args.map(value), env };
}
