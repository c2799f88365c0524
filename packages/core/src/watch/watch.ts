import { setOwn } from '../json/json.js';
import type { ToolDescription } from '../ports/ports.js';
import { compareTools, same, type ToolChange } from './difference.js';
import type { Flag, FlagFacts } from './flag.js';
import { FLAG_RULES } from './flags/registry.js';
import type { Watch } from './watches.js';

/** A tool on hold. */
export interface Held {
  /** Since when, in milliseconds since the epoch. */
  since: number;
  flags: Flag[];
  /** Who rejected it. */
  refused?: string;
}

/**
 * Runs all flag rules on a tool.
 * @param tool description from its server
 * @param facts about the other tools of the workspace
 * @returns flags in the order of the rules; none for a tool without remarks
 */
export const flagsOf = (tool: ToolDescription, facts: FlagFacts): Flag[] =>
  FLAG_RULES.flatMap(({ rule, look }) => look(tool, facts).map((flag) => ({ rule, ...flag })));

/** Name of the flags of a reviewing model, which hold a tool like those of a rule. */
export const MODEL_REVIEW = 'model-review';
const HOLDING = new Set([MODEL_REVIEW, ...FLAG_RULES.filter(({ holds }) => holds).map(({ rule }) => rule)]);

export interface Seen {
  changes: ToolChange[];
  /** What is accepted from now on. */
  accepted: ToolDescription[];
  held: Record<string, Held>;
}

/**
 * Compares a tool list with the accepted one and decides which tools to hold.
 * @param now the tools as listed now
 * @param before accepted tools, or null for a new server, of which only flagged tools are held; tools on hold, which stay
 *   on hold while unchanged; and the previous list
 * @param watch which changes are held
 * @param facts about the other tools, and the time in milliseconds since the epoch
 * @returns changes, accepted tools, and held ones
 */
export function seeTools(
  now: readonly ToolDescription[],
  before: {
    accepted: readonly ToolDescription[] | null;
    held: Readonly<Record<string, Held>>;
    list: readonly ToolDescription[];
  },
  watch: Watch,
  facts: FlagFacts & { at: number; flags?: ReadonlyMap<ToolDescription, Flag[]> },
): Seen {
  // Looking takes a while: whoever has many has looked before, with others in between.
  const look = (tool: ToolDescription) => facts.flags?.get(tool) ?? flagsOf(tool, facts);
  const accepted = new Map((before.accepted ?? []).map((tool) => [tool.name, tool]));
  const list = new Map(before.list.map((tool) => [tool.name, tool]));
  const changes = before.accepted === null ? [] : compareTools(before.accepted, now);
  const held: Record<string, Held> = {};
  const kept: ToolDescription[] = [];
  for (const tool of now) {
    const known = accepted.get(tool.name);
    if (known && same(known, tool)) {
      kept.push(tool);
      continue;
    }
    const last = list.get(tool.name);
    const former = Object.hasOwn(before.held, tool.name) ? before.held[tool.name] : undefined;
    if (former && last && same(last, tool)) {
      setOwn(held, tool.name, former);
      if (known) kept.push(known);
      continue;
    }
    const flags = look(tool);
    const old = known ? look(known).map(({ quote, rule }) => `${rule} ${quote}`) : [];
    const isFlagged = flags.some(({ rule, quote }) => HOLDING.has(rule) && !old.includes(`${rule} ${quote}`));
    if (watch === 'allow' || (!isFlagged && (watch === 'flagged' || before.accepted === null))) {
      kept.push(tool);
      continue;
    }
    setOwn(held, tool.name, { since: facts.at, flags });
    // What was accepted stays known, so that one sees what is different.
    if (known) kept.push(known);
  }
  // What was renamed stays known by its former name while the new one waits.
  for (const { tool, was } of changes) if (was !== null && Object.hasOwn(held, tool)) kept.push(accepted.get(was)!);
  return { changes, accepted: kept, held };
}

/**
 * Returns the tools that are not on hold.
 * @param now tools as last listed
 * @param held tools on hold, by name
 * @returns tools in the order of the list
 */
export const usableTools = (now: readonly ToolDescription[], held: Readonly<Record<string, Held>>): ToolDescription[] =>
  now.filter(({ name }) => !Object.hasOwn(held, name));
