import { PindroError } from '../errors.js';
import type { Json, JsonObject } from '../json.js';
import type { ToolDescription } from '../ports.js';
import { distinctNames } from '../tools/names.js';
import { select } from '../tools/selection.js';
import type { ToolboxEntry } from './config.js';
import { worded } from './toolbox.js';

/** What an expression may see on an endpoint; anything else belongs to one run of one flow. */
const BOUND_TO_RUN = /\$\{[^}]*\b(input|steps|item|index|run)\b/;

interface Draft {
  name: string;
  source: string;
  tool: JsonObject;
}

/**
 * The tools of a toolbox as they would stand on an endpoint, with the words and rules they have there.
 * @param serverTools tools of each attached server, as last seen
 * @returns the tools by name, and the rows that stay: those that come from endpoints already
 * @throws request_invalid when a rule takes a value from the run, which an endpoint does not have
 */
export function toolboxAsTools(
  toolbox: readonly ToolboxEntry[],
  serverTools: Record<string, readonly ToolDescription[]>,
): { tools: Record<string, JsonObject>; rest: ToolboxEntry[] } {
  const drafts: Draft[] = [];
  for (const row of toolbox) {
    if ('server' in row) drafts.push(...fromServer(row, serverTools[row.server] ?? []));
    else if ('flow' in row) {
      const { flow, name, ...words } = row;
      drafts.push({ name: name ?? flow, source: 'flow', tool: { flow, ...(words as JsonObject) } });
    }
  }
  const names = distinctNames(drafts);
  const tools = Object.fromEntries(drafts.map(({ tool }, index) => [names[index]!, tool]));
  for (const [name, tool] of Object.entries(tools)) {
    if (!BOUND_TO_RUN.test(JSON.stringify(tool.arguments ?? null))) continue;
    const why = `An argument of "${name}" is set from this run, and an endpoint serves many; set it from "caller", or leave that tool in the toolbox`;
    throw new PindroError('request_invalid', { why });
  }
  return { tools, rest: toolbox.filter((row) => 'endpoint' in row) };
}

function fromServer(row: Extract<ToolboxEntry, { server: string }>, known: readonly ToolDescription[]): Draft[] {
  const { chosen } = select(
    known.map((tool) => tool.name),
    row.use,
  );
  return chosen.map((name): Draft => {
    const change = row.tools?.[name];
    const own = known.find((tool) => tool.name === name)?.description ?? '';
    const description = change?.when || change?.description ? worded(change, own) : undefined;
    return {
      name,
      source: row.server,
      tool: {
        server: row.server,
        tool: name,
        ...(description !== undefined && { description }),
        ...(change?.arguments && { arguments: change.arguments as unknown as Json }),
      },
    };
  });
}
