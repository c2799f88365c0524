import { type ErrorRecord, PindroError } from '../../errors/errors.js';
import type { JsonObject } from '../../json/json.js';
import { ownOf } from '../../json/json.js';
import { distinctNames } from '../../tools/names.js';
import { sentence, validate } from '../../tools/schema.js';
import { select } from '../../tools/selection.js';
import type { ToolSettings } from '../../tools/settings.js';
import type { SourceContext, SourceTool, ToolAnswer, ToolSource } from '../../tools/source.js';
import { endpointSource } from '../../tools/sources/endpoint.js';
import { flowSource } from '../../tools/sources/flow.js';
import { serverSource } from '../../tools/sources/server.js';
import { tamed } from '../../tools/wrap/index.js';
import { recorded } from '../../tools/wrap/record.js';
import { attribute } from '../../trace/spans/attributes.js';
import type { BuiltIn } from '../built-in/built-in.js';
import type { Asking } from '../calls/asking.js';
import type { ToolboxEntry, Unexplained } from '../config.js';
import type { AgentContext } from '../context.js';

/** A tool as the agent holds it. */
export interface AgentTool
  extends Pick<
      SourceTool,
      | 'name'
      | 'description'
      | 'schema'
      | 'origin'
      | 'identity'
      | 'server'
      | 'flagged'
      | 'changedAt'
      | 'reads'
      | 'resumes'
      | 'prepare'
      | 'sends'
    >,
    Pick<ToolSettings, 'approval' | 'calls' | 'keep'> {
  /** What happens where its arguments are unexplained, and whether its server is trusted. */
  unexplained?: Unexplained | undefined;
  untrusted?: boolean | undefined;
  /** What people read while it works. */
  line?: string | undefined;
  call(given: JsonObject, context: AgentContext, asking: Asking): Promise<ToolAnswer>;
}

export interface Toolbox {
  tools: AgentTool[];
  /** Servers that could not be reached while the toolbox was laid out; their tools are the ones last seen. */
  unreachable: { server: string; error: ErrorRecord }[];
  /** Patterns that fit no tool. */
  idle: string[];
  /** Selected tools that are on hold. */
  held: { server: string; tool: string; why: string }[];
  /** Tools whose name was taken, with what the model calls them instead. */
  renamed: { tool: string; from: string; name: string }[];
  /** What servers and endpoints say to whoever uses their tools. */
  instructions: { from: string; text: string }[];
}

/**
 * Returns the tools of an agent; disabled rows are omitted. An unreachable server does not affect the others.
 * @throws rule_breaks_tool if an argument rule is invalid
 */
export async function layOutToolbox(entries: readonly ToolboxEntry[], context: SourceContext): Promise<Toolbox> {
  const box: Toolbox = { tools: [], unreachable: [], idle: [], held: [], renamed: [], instructions: [] };
  const drafts: { tool: SourceTool; source: string; settings: ToolSettings | undefined; entry: ToolboxEntry }[] = [];
  for (const entry of entries) {
    if (entry.off) continue;
    const source = sourceOf(entry);
    let known: string[] = [];
    const { tools, instructions, unreachable, held } = await source.list(context, (names) => {
      known = [...names];
      return chosenOf(entry, names).chosen;
    });
    const { idle, chosen } = chosenOf(entry, [...known, ...Object.keys(held)]);
    box.idle.push(...idle);
    if (unreachable) box.unreachable.push(unreachable);
    for (const [tool, why] of Object.entries(held))
      if (chosen.includes(tool)) box.held.push({ server: source.name, tool, why });
    if (instructions !== '' && tools.length > 0 && !('flow' in entry) && entry.instructions !== false)
      box.instructions.push({ from: source.name, text: instructions });
    for (const tool of tools) {
      const settings = settingsOf(entry, tool.name);
      const own = tamed(tool, settings);
      drafts.push({ tool: own, source: source.name, settings, entry });
    }
  }
  const names = distinctNames(
    drafts.map(({ tool, source, settings }) => ({ name: tool.name, source, fixed: settings?.name !== undefined })),
  );
  box.tools = drafts.map(({ tool, source, settings = {}, entry }, index) => {
    const name = names[index]!;
    if (name !== tool.name && name.endsWith(tool.name)) box.renamed.push({ tool: tool.name, from: source, name });
    const { line, approval, calls, keep } = settings;
    return {
      ...tool,
      ...{ name, line, approval, calls, keep },
      ...('server' in entry && { unexplained: entry.unexplained, untrusted: entry.untrusted }),
      call: (given, calling) => recorded(tool, given, calling),
    };
  });
  return box;
}

/** Adds the server's name to a tool's description, so that the model can tell one server's text from another's. */
export const asOffered = <T extends Pick<AgentTool, 'description' | 'server'>>(tool: T): T =>
  tool.server === undefined
    ? tool
    : { ...tool, description: `${tool.description}\n(Tool of server "${tool.server}")`.trimStart() };

/** Built-in tools in addition to those of a toolbox; on a name conflict one is renamed. */
export function withBuiltIn(tools: readonly AgentTool[], own: readonly BuiltIn[]): AgentTool[] {
  const taken = new Set(tools.map(({ name }) => name));
  return [...tools, ...own.map((one) => builtInTool(one, taken.has(one.name) ? `own_${one.name}` : one.name))];
}

function builtInTool(own: BuiltIn, name: string): AgentTool {
  const { description, schema, reads } = own;
  const shown = {
    ...{ name, description, schema, reads, origin: '', identity: `built-in ${own.name}` },
    attributes: { [attribute.builtIn]: true },
  };
  const call = (given: JsonObject, context: Parameters<BuiltIn['call']>[1], asking: Asking) => {
    const mistakes = validate(schema, given);
    if (mistakes.length === 0) return own.call(given, context, asking);
    const why = { tool: name, why: sentence(mistakes), fix: 'Call it as its schema requires.' };
    throw new PindroError('arguments_refused', why, { details: { tool: name } });
  };
  return {
    ...shown,
    // It can be asked again at the same place: an answer that was given is there.
    resumes: true,
    call: (given, context, asking) =>
      recorded(
        {
          ...shown,
          call: async (_, { span }) => call(given, { ...context, captureExchange: span.captureExchange }, asking),
        },
        given,
        context,
      ),
  };
}

const chosenOf = (entry: ToolboxEntry, names: readonly string[]) =>
  select(names, 'flow' in entry ? undefined : entry.use);

function sourceOf(entry: ToolboxEntry): ToolSource {
  const rulesOf = (tool: string) => settingsOf(entry, tool)?.arguments;
  if ('server' in entry) return serverSource(entry.server, { credential: entry.credential, rulesOf });
  if ('endpoint' in entry) return endpointSource(entry.endpoint, { rulesOf });
  return flowSource(entry.flow, { name: entry.name, rules: entry.arguments ?? {} });
}

/** What is set for one tool of a row. */
function settingsOf(entry: ToolboxEntry, tool: string) {
  if (!('flow' in entry)) return ownOf(entry.tools, tool);
  const { flow: _, off: __, ...settings } = entry;
  return settings;
}
