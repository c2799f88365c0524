import { PindroError } from '../../errors/errors.js';
import { asJson, type JsonObject, ownOf } from '../../json/json.js';
import type { ToolDescription } from '../../ports/ports.js';
import { distinctNames } from '../../tools/names.js';
import { select } from '../../tools/selection.js';
import { wordsOf } from '../../tools/wrap/descriptions.js';
import type { ToolboxEntry } from '../config.js';

/** What an expression may see on an endpoint; anything else belongs to one run of one flow. */
const BOUND_TO_RUN = /\$\{[^}]*\b(input|steps|item|index|run)\b/;

/** A tool of a toolbox in the form of a tool on an endpoint. */
export interface ToolboxTool {
  name: string;
  tool: JsonObject;
  /** Which row of the toolbox it comes from, and what it is called there; null for a flow, which is a row of its own. */
  place: { row: number; own: string | null };
}
type Draft = ToolboxTool & { source: string; fixed: boolean };

/**
 * Lists the tools of a toolbox that do not come from an endpoint, with their descriptions and rules.
 * @param toolbox rows of an agent
 * @param serverTools tools of each attached server, as last seen
 * @returns each tool with its row
 */
export function toolboxTools(
  toolbox: readonly ToolboxEntry[],
  serverTools: Record<string, readonly ToolDescription[]>,
): ToolboxTool[] {
  const drafts = toolbox.flatMap((row, index): Draft[] => {
    if ('server' in row) return fromServer(row, index, serverTools[row.server] ?? []);
    if (!('flow' in row)) return [];
    const { flow, name, description, when, arguments: rules } = row;
    const own: JsonObject = description !== undefined || when !== undefined ? { description: wordsOf(row, '') } : {};
    const tool: JsonObject = { flow, ...own, ...(rules && { arguments: asJson(rules) }) };
    const fixed = name !== undefined;
    return [{ name: name ?? flow, fixed, source: 'flow', tool, place: { row: index, own: null } }];
  });
  const names = distinctNames(drafts);
  return drafts.map(({ tool, place }, index) => ({ name: names[index]!, tool, place }));
}

/**
 * Converts the tools of a toolbox to tools of an endpoint, with their descriptions and rules.
 * @param toolbox rows of an agent
 * @param serverTools tools of each attached server, as last seen
 * @returns the tools by name, and the rows that stay: those that come from endpoints already
 * @throws request_invalid when a rule takes a value from the run, which an endpoint does not have
 */
export function toolboxAsTools(
  toolbox: readonly ToolboxEntry[],
  serverTools: Record<string, readonly ToolDescription[]>,
): { tools: Record<string, JsonObject>; rest: ToolboxEntry[] } {
  const tools = Object.fromEntries(toolboxTools(toolbox, serverTools).map(({ name, tool }) => [name, tool]));
  for (const [name, tool] of Object.entries(tools)) {
    if (!BOUND_TO_RUN.test(JSON.stringify(tool.arguments ?? null))) continue;
    const why = `An argument of "${name}" is set from this run, but an endpoint serves many callers; set it from "caller", or leave the tool in the toolbox`;
    throw new PindroError('request_invalid', { why });
  }
  return { tools, rest: toolbox.filter((row) => 'endpoint' in row) };
}

function fromServer(
  row: Extract<ToolboxEntry, { server: string }>,
  index: number,
  known: readonly ToolDescription[],
): Draft[] {
  const { chosen } = select(
    known.map((tool) => tool.name),
    row.use,
  );
  return chosen.map((name): Draft => {
    const change = ownOf(row.tools, name);
    const own = known.find((tool) => tool.name === name)?.description ?? '';
    const description = change?.when || change?.description ? wordsOf(change, own) : undefined;
    return {
      name: change?.name ?? name,
      fixed: change?.name !== undefined,
      source: row.server,
      place: { row: index, own: name },
      tool: {
        server: row.server,
        tool: name,
        ...(row.credential && { credential: row.credential }),
        ...(description !== undefined && { description }),
        ...(change?.arguments && { arguments: asJson(change.arguments) }),
      },
    };
  });
}
