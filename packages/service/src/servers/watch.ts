import type { ServerChanges, ServerList } from '@pindro/contract';
import {
  asPindroError,
  compareTools,
  didYouMean,
  FLAG_RULES,
  type Flag,
  flagsOf,
  giveWay,
  ownOf,
  PindroError,
  sameTool,
  seeTools,
  setOwn,
  type ToolChange,
  type ToolDescription,
} from '@pindro/core';
import { and, between, desc, eq, lte } from 'drizzle-orm';
import type { ServerRepository, ServerRow } from './repository.js';
import { type ModelReview, unjudged } from './review/model-review.js';
import { serverHistory } from './tables.js';

/** Maximum number of checked characters of a list; the rest is put on hold. */
const MOST_LOOKED_AT = 4_000_000;
const UNSEEN: Flag = {
  rule: 'too-long',
  at: 'description',
  says: 'The list is too large to review',
  quote: '',
};
/** Maximum number of lists per server. */
const MOST_LISTS = 100;
const WEEK = 7 * 24 * 60 * 60_000;
const JUST_AFTER = 60_000;

/** The first flag of a tool because of which it would be held. */
const heldFlag = (tool: ToolDescription, facts: Parameters<typeof flagsOf>[1]): string | null =>
  flagsOf(tool, facts).find(({ rule }) => HOLDS.has(rule))?.says ?? null;
const HOLDS = new Set(FLAG_RULES.filter(({ holds }) => holds).map(({ rule }) => rule));

type Flags = ReadonlyMap<ToolDescription, Flag[]>;
/** What a server said when it was asked. */
interface Heard {
  tools: ToolDescription[];
  about: string;
  instructions: string;
}

/** Time since when tools are unchanged, after an update. @param isFirst whether nothing was known before */
function sinceOf({ toolSince }: ServerRow, changes: readonly ToolChange[], isFirst: boolean): Record<string, number> {
  const since: Record<string, number> = { ...toolSince };
  for (const { tool, kind, was } of changes) {
    if (kind === 'gone') delete since[tool];
    else if (!isFirst) setOwn(since, tool, Date.now());
    if (was) delete since[was];
  }
  return since;
}

interface Options {
  repository: ServerRepository;
  /** Writes a warning to the log of a server. */
  warn(server: string, text: string): void;
  /** Somebody may be looking at it. */
  changed(server: string): void;
}

/** Tool lists under watch: what was accepted stands with each server, and what differs is told, and held where that is wanted. */
export class ToolWatch {
  /** Reviews tools with a model. Set once the models are open. */
  review: ModelReview | null = null;
  readonly #repository: ServerRepository;

  constructor(private readonly options: Options) {
    this.#repository = options.repository;
  }

  /** What the rules find in tools that are not as they were accepted; others are served in between. */
  async lookAt(name: string, tools: readonly ToolDescription[]): Promise<Flags> {
    const flags = new Map<ToolDescription, Flag[]>();
    const known = this.#repository.names().includes(name) ? this.#repository.row(name) : null;
    const accepted = known?.accepted ?? known?.tools ?? [];
    const as = new Map(accepted.map((tool) => [tool.name, tool]));
    const facts = this.#facts(name);
    let looked = 0;
    for (const tool of tools) {
      const before = as.get(tool.name);
      if (before && sameTool(before, tool)) continue;
      looked += JSON.stringify(tool).length;
      if (looked > MOST_LOOKED_AT) {
        flags.set(tool, [UNSEEN]);
        continue;
      }
      for (const one of before ? [before, tool] : [tool]) flags.set(one, flagsOf(one, facts));
      const judged = await this.#judge(name, tool);
      if (judged) flags.get(tool)!.push(judged);
      await giveWay();
    }
    return flags;
  }

  /** What a model finds about a tool, where an owner chose one to review tools. */
  async #judge(server: string, tool: ToolDescription): Promise<Flag | null> {
    try {
      return (await this.review?.flagOf(server, tool)) ?? null;
    } catch (error) {
      // Fails closed: the owner wants every tool reviewed before it is used.
      const why = asPindroError(error).message;
      this.options.warn(server, `the review model did not evaluate ${tool.name}: ${why}`);
      return unjudged(why);
    }
  }

  /** What becomes of a list that is heard for the first time. */
  firstSight(name: string, heard: Heard, watch: ServerRow['watch'], flags: Flags) {
    const before = { accepted: null, held: {}, list: [] };
    const { accepted, held } = seeTools(heard.tools, before, watch, { ...this.#facts(name), flags });
    return { ...heard, accepted, held, seenAt: Date.now() };
  }

  noteList(server: string, what: ServerList['what'], tools: ToolDescription[], by?: string, about: string[] = []) {
    const { database } = this.#repository;
    database
      .insert(serverHistory)
      .values({ server, at: Date.now(), what, by: by ?? null, tools, about })
      .run();
    const [oldest] = database
      .select({ id: serverHistory.id })
      .from(serverHistory)
      .where(eq(serverHistory.server, server))
      .orderBy(desc(serverHistory.id))
      .limit(1)
      .offset(MOST_LISTS)
      .all();
    if (oldest)
      database
        .delete(serverHistory)
        .where(and(eq(serverHistory.server, server), lte(serverHistory.id, oldest.id)))
        .run();
  }

  /** Processes a new tool list. @returns the differences from the previous one */
  takeIn(name: string, heard: Heard, flags: Flags): ToolChange[] {
    const row = this.#repository.row(name);
    const changes = compareTools(row.tools, heard.tools);
    // One that was never heard has nothing to differ from.
    const known = row.accepted ?? (row.seenAt === null && row.tools.length === 0 ? null : row.tools);
    const before = { accepted: known, held: row.held, list: row.tools };
    const { accepted, held } = seeTools(heard.tools, before, row.watch, { ...this.#facts(name), flags });
    const toolSince = sinceOf(row, changes, known === null);
    // Accepted changes are reported until somebody reviews them.
    const reviewed = row.reviewed ?? (changes.length > 0 && known !== null ? known : null);
    this.#repository.database.driver
      .transaction(() => {
        this.#repository.update(name, { ...heard, accepted, held, toolSince, reviewed, seenAt: Date.now() });
        if (changes.length > 0)
          this.noteList(
            name,
            'seen',
            heard.tools,
            undefined,
            changes.map(({ tool }) => tool),
          );
      })
      .immediate();
    return changes;
  }

  /** Changes of its list around a time: in the week before, or just after. */
  changedAbout(given: string, at: number): { server: string; at: string; tools: string[] } | null {
    const { name } = this.#repository.row(given);
    const row = this.#repository.database
      .select({ at: serverHistory.at, about: serverHistory.about })
      .from(serverHistory)
      .where(
        and(
          ...[eq(serverHistory.server, name), eq(serverHistory.what, 'seen')],
          between(serverHistory.at, at - WEEK, at + JUST_AFTER),
        ),
      )
      .orderBy(desc(serverHistory.id))
      .limit(1)
      .get();
    return row ? { server: name, at: new Date(row.at).toISOString(), tools: row.about } : null;
  }

  #facts(name: string) {
    const others = this.#repository
      .names()
      .filter((other) => other !== name)
      .flatMap((server) => this.#repository.row(server).tools.map(({ name: tool }) => ({ server, tool })));
    return { server: name, others, at: Date.now() };
  }

  /** Flagged text of usable tools; evaluated once per version of a tool. */
  flaggedOf(name: string): Record<string, string> {
    const facts = this.#facts(name);
    const found: Record<string, string> = {};
    for (const tool of this.#repository.tools(name)) {
      let says = this.#flagged.get(tool);
      if (says === undefined) this.#flagged.set(tool, (says = heldFlag(tool, facts)));
      if (says !== null) setOwn(found, tool.name, says);
    }
    return found;
  }
  readonly #flagged = new WeakMap<ToolDescription, string | null>();

  /** Number of tools on hold. */
  heldCount(name: string): number {
    return Object.keys(this.#repository.row(name).held).length;
  }

  /** What differs from what was accepted, with what a rule flags in it, and what came before. */
  changes(given: string): ServerChanges {
    const row = this.#repository.row(given);
    const { name } = row;
    const base = new Map((row.reviewed ?? row.accepted ?? row.tools).map((tool) => [tool.name, tool]));
    const facts = this.#facts(name);
    const items = compareTools([...base.values()], row.tools);
    const differing = new Set(items.map(({ tool }) => tool));
    // Tools that were flagged when attached have no difference, and still wait.
    const waiting = Object.keys(row.held).filter((tool) => !differing.has(tool));
    const all: ToolChange[] = [
      ...items,
      ...waiting.map((tool) => ({ tool, kind: 'new' as const, was: null, parts: [], breaks: [] })),
    ];
    return {
      name,
      watch: row.watch,
      items: all.map((change) => {
        const tool = row.tools.find((one) => one.name === change.tool);
        const held = Object.hasOwn(row.held, change.tool) ? row.held[change.tool]! : null;
        return {
          ...change,
          description: tool?.description ?? '',
          flags: tool ? flagsOf(tool, facts) : [],
          held: held !== null,
          since: held ? new Date(held.since).toISOString() : null,
          refused: held?.refused ?? null,
        };
      }),
    };
  }

  /** Accepts tools in their present form. @param given names of tools; all pending ones if omitted */
  accept(server: string, by: string, given?: readonly string[]): void {
    this.#settle(server, by, 'accepted', given);
  }

  /** Rejects tools in their present form: they stay on hold until they change, or somebody accepts them. */
  refuse(server: string, by: string, given?: readonly string[]): void {
    this.#settle(server, by, 'refused', given);
  }

  #settle(given: string, by: string, what: 'accepted' | 'refused', chosen?: readonly string[]): void {
    const row = this.#repository.row(given);
    const { name } = row;
    const { items } = this.changes(name);
    const waiting = items.map(({ tool }) => tool);
    // What is flagged is accepted by its name alone: nobody takes it along unseen.
    const isFlagged = (tool: string) => (ownOf(row.held, tool)?.flags.length ?? 0) > 0;
    const tools = chosen ?? (what === 'accepted' ? waiting.filter((tool) => !isFlagged(tool)) : waiting);
    if (chosen === undefined && tools.length === 0 && waiting.length > 0)
      throw new PindroError('request_invalid', {
        why: `${waiting.join(', ')} ${waiting.length === 1 ? 'is' : 'are'} flagged; review each and accept it by name`,
      });
    const unknown = tools.find((tool) => !waiting.includes(tool));
    if (unknown !== undefined)
      throw new PindroError('not_found', {
        ...{ what: 'change of the tool', name: unknown },
        suggestion: didYouMean(unknown, waiting),
      });
    const held = { ...row.held };
    const accepted = new Map((row.accepted ?? row.tools).map((tool) => [tool.name, tool]));
    const reviewed = new Map((row.reviewed ?? row.accepted ?? row.tools).map((tool) => [tool.name, tool]));
    for (const tool of tools) {
      const now = row.tools.find((one) => one.name === tool);
      if (what === 'refused') {
        if (now) setOwn(held, tool, { since: Date.now(), flags: [], ...ownOf(held, tool), refused: by });
        continue;
      }
      delete held[tool];
      for (const list of [accepted, reviewed])
        if (now) list.set(tool, now);
        else list.delete(tool);
      // What it was called before is gone with it.
      const was = items.find((one) => one.tool === tool)?.was;
      if (was) {
        accepted.delete(was);
        reviewed.delete(was);
      }
    }
    this.#repository.database.driver
      .transaction(() => {
        this.#repository.update(name, { held, accepted: [...accepted.values()], reviewed: [...reviewed.values()] });
        this.noteList(name, what, row.tools, by, [...tools]);
      })
      .immediate();
    this.options.changed(name);
  }

  /** The tool lists that a server had, the latest first, each with how it differs from the one before. */
  history(given: string): ServerList[] {
    const name = this.#repository.nameOf(given);
    const rows = this.#repository.database
      .select()
      .from(serverHistory)
      .where(eq(serverHistory.server, name))
      .orderBy(desc(serverHistory.id))
      .all();
    return rows.map(({ id, at, what, by, about, tools }, index) => ({
      ...{ id, at: new Date(at).toISOString(), what, by, about, tools: tools.length },
      changes: compareTools(rows[index + 1]?.tools ?? (what === 'attached' ? [] : tools), tools),
    }));
  }

  renameLists(from: string, to: string): void {
    this.#repository.database.update(serverHistory).set({ server: to }).where(eq(serverHistory.server, from)).run();
  }
}
