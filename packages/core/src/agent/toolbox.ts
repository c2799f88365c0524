import type { ErrorRecord } from '../errors.js';
import { PindroError } from '../errors.js';
import { type Json, type JsonObject, type JsonSchema, ownOf } from '../json.js';
import type { ArgumentRules, Exposure, Ports } from '../ports.js';
import { type CallContext, callServerTool, type ToolAnswer } from '../tools/call.js';
import { distinctNames } from '../tools/names.js';
import { mergeArguments, ruleMistakes, rulesFor, seenSchema } from '../tools/rules.js';
import { select } from '../tools/selection.js';
import { attribute } from '../trace/attributes.js';
import type { Parked } from '../trace/journal.js';
import type { Stage } from '../trace/states.js';
import type { ToolboxEntry } from './config.js';

/** How work that is a flow of its own is begun; the engine hands it in. */
export interface FlowOutcome {
  run: string;
  /** `waiting` and `running`: the run goes on by itself, and this is what its caller is told meanwhile. */
  state: 'done' | 'failed' | 'cancelled' | 'waiting' | 'running';
  result: Json;
  error?: ErrorRecord;
  waitsFor?: Parked;
}
export type StartFlow = (
  name: string,
  input: Json,
  /** `wait`: whether the work goes on only once the run has answered. */
  options: { parentSpan: string; entry: 'flow' | 'agent'; signal: AbortSignal; wait?: boolean },
) => Promise<FlowOutcome>;

export interface AgentToolAnswer extends ToolAnswer {
  /** The child run, where the tool is a flow. */
  run?: string;
}

/** A tool as the agent holds it. */
export interface AgentTool {
  name: string;
  description: string;
  schema: JsonSchema;
  /** Where it comes from, for people: `lift`, `flow reserve-bunks`. */
  origin: string;
  call(given: JsonObject, context: CallContext): Promise<AgentToolAnswer>;
}

export interface Toolbox {
  tools: AgentTool[];
  /** Servers that could not be reached while the toolbox was laid out; their tools are the ones last seen. */
  unreachable: { server: string; error: ErrorRecord }[];
  /** Patterns that fit no tool. */
  idle: string[];
  /** Tools that were chosen, and that are held back until somebody accepts them. */
  held: { server: string; tool: string; why: string }[];
}

interface ToolboxContext {
  ports: Ports;
  stage: Stage;
  signal: AbortSignal;
  startFlow: StartFlow;
  /** Fills expressions in what stands outside of the step, such as the rules of an endpoint. */
  fill(value: Json, at: PropertyKey[]): Json;
}

type Draft = AgentTool & { source: string };

/**
 * Lays out the tools an agent may use. A server that cannot be reached does not sink the others.
 * @throws rule_breaks_tool when an argument rule cannot be honoured
 */
export async function layOutToolbox(entries: readonly ToolboxEntry[], surroundings: ToolboxContext): Promise<Toolbox> {
  const box: Toolbox = { tools: [], unreachable: [], idle: [], held: [] };
  const drafts: Draft[] = [];
  for (const entry of entries) {
    if ('server' in entry) drafts.push(...(await serverTools(entry, surroundings, box)));
    else if ('endpoint' in entry) drafts.push(...(await endpointTools(entry, surroundings, box)));
    else drafts.push(await flowDraft(entry, surroundings));
  }
  const names = distinctNames(drafts);
  box.tools = drafts.map(({ source: _, ...tool }, index) => ({ ...tool, name: names[index]! }));
  return box;
}

async function serverTools(
  entry: Extract<ToolboxEntry, { server: string }>,
  surroundings: ToolboxContext,
  box: Toolbox,
): Promise<Draft[]> {
  const described = await surroundings.ports.toolServers.describe(entry.server, surroundings);
  if (described.unreachable) box.unreachable.push({ server: entry.server, error: described.unreachable });
  const held = Object.entries(described.held ?? {});
  const { chosen, idle } = select(
    [...described.tools.map((tool) => tool.name), ...held.map(([name]) => name)],
    entry.use,
  );
  box.idle.push(...idle);
  for (const [tool, why] of held) if (chosen.includes(tool)) box.held.push({ server: entry.server, tool, why });
  return described.tools
    .filter((tool) => chosen.includes(tool.name) && !tool.taskOnly)
    .map((tool) => {
      const change = ownOf(entry.tools, tool.name);
      const rules = rulesFor(tool, filled(described.rules, surroundings), change?.arguments);
      refuseBrokenRules(tool, rules);
      return {
        name: tool.name,
        source: entry.server,
        origin: entry.server,
        description: worded(change, tool.description ?? tool.title ?? ''),
        schema: seenSchema(tool.inputSchema, rules),
        call: (given, context) => callServerTool(entry.server, tool, rules, given, context, entry.credential),
      };
    });
}

async function endpointTools(
  entry: Extract<ToolboxEntry, { endpoint: string }>,
  surroundings: ToolboxContext,
  box: Toolbox,
): Promise<Draft[]> {
  const exposures = await surroundings.ports.endpoints.exposures(entry.endpoint, surroundings.stage);
  const { chosen, idle } = select(
    exposures.map((exposure) => exposure.name),
    entry.use,
  );
  box.idle.push(...idle);
  const taken = exposures.filter((exposure) => chosen.includes(exposure.name));
  return Promise.all(taken.map((exposure) => exposureDraft(exposure, entry, surroundings)));
}

async function exposureDraft(
  exposure: Exposure,
  entry: Extract<ToolboxEntry, { endpoint: string }>,
  surroundings: ToolboxContext,
): Promise<Draft> {
  const change = ownOf(entry.tools, exposure.name);
  const rules = { ...filled(exposure.rules, surroundings), ...change?.arguments };
  const tool = { name: exposure.name, inputSchema: exposure.schema };
  refuseBrokenRules(tool, rules);
  const { target } = exposure;
  const base = {
    name: exposure.name,
    source: entry.endpoint,
    description: worded(change, exposure.description),
    schema: seenSchema(exposure.schema, rules),
  };
  if ('flow' in target)
    return { ...base, origin: `flow ${target.flow}`, call: callFlow(target.flow, tool, rules, surroundings) };
  const described = await surroundings.ports.toolServers.describe(target.server, surroundings);
  const own = described.tools.find((candidate) => candidate.name === target.tool);
  const why = ownOf(described.held, target.tool);
  if (why !== undefined) throw new PindroError('tool_held', { tool: target.tool, server: target.server, why });
  if (!own)
    throw new PindroError('tool_unknown', {
      tool: target.tool,
      where: `tool server "${target.server}"`,
      suggestion: 'Refresh the server, or choose another tool.',
    });
  return {
    ...base,
    origin: target.server,
    call: (given, context) => callServerTool(target.server, own, rules, given, context, target.credential),
  };
}

async function flowDraft(entry: Extract<ToolboxEntry, { flow: string }>, surroundings: ToolboxContext): Promise<Draft> {
  const { document } = await surroundings.ports.flows.load(entry.flow, surroundings.stage);
  const flow = document as JsonObject;
  const tool = {
    name: entry.name ?? entry.flow,
    inputSchema: (flow.input as JsonSchema) ?? { type: 'object', properties: {} },
  };
  const rules = entry.arguments ?? {};
  refuseBrokenRules(tool, rules);
  return {
    name: tool.name,
    source: 'flow',
    origin: `flow ${entry.flow}`,
    description: entry.description ?? String(flow.description ?? flow.title ?? entry.flow),
    schema: seenSchema(tool.inputSchema, rules),
    call: callFlow(entry.flow, tool, rules, surroundings),
  };
}

function callFlow(
  flow: string,
  tool: { name: string; inputSchema: JsonSchema },
  rules: ArgumentRules,
  surroundings: ToolboxContext,
): AgentTool['call'] {
  return async (given, context) => {
    const span = context.recorder.span('tool', `execute_tool ${tool.name}`, context.parentSpan, {
      input: given,
      attributes: { [attribute.operation]: 'execute_tool', [attribute.tool]: tool.name, [attribute.flow]: flow },
    });
    try {
      const merged = mergeArguments(tool, rules, given);
      const outcome = await surroundings.startFlow(flow, merged, {
        parentSpan: span.id,
        entry: 'agent',
        signal: context.signal,
      });
      span.set({ [attribute.childRun]: outcome.run });
      if (outcome.state === 'waiting') {
        const data = { run: outcome.run, state: 'waiting', waits_for: outcome.waitsFor?.what ?? '' };
        span.done(data);
        const text = `It is not done yet. ${outcome.waitsFor?.what ?? 'It waits'}. It goes on by itself as run ${outcome.run}.`;
        return { text, data, content: [{ type: 'text', text }], run: outcome.run };
      }
      if (outcome.state !== 'done')
        throw outcome.error
          ? PindroError.from(outcome.error)
          : new PindroError('cancelled', { what: `Flow "${flow}"` });
      span.done(outcome.result);
      const text = typeof outcome.result === 'string' ? outcome.result : JSON.stringify(outcome.result);
      return { text, data: outcome.result, content: [{ type: 'text', text }], run: outcome.run };
    } catch (error) {
      span.fail(error);
      throw error;
    }
  };
}

/** Rules as they stand on a server or an endpoint, with the values of this run. */
const filled = (rules: ArgumentRules, surroundings: ToolboxContext) =>
  surroundings.fill(rules as unknown as Json, ['toolbox']) as unknown as ArgumentRules;

/** What the model reads of a tool whose words were changed in a toolbox. */
export function worded(
  change: { when?: string | undefined; description?: string | undefined } | undefined,
  own: string,
): string {
  const description = change?.description ?? own;
  return change?.when ? `${change.when}\n\n${description}` : description;
}

function refuseBrokenRules(tool: { name: string; inputSchema: JsonSchema }, rules: ArgumentRules): void {
  const mistake = ruleMistakes(tool, rules)[0];
  if (!mistake) return;
  const argument = mistake.at.slice(1);
  throw new PindroError(
    'rule_breaks_tool',
    { tool: tool.name, argument, why: mistake.message },
    { details: { tool: tool.name, argument } },
  );
}

/** An error for a model to read: what went wrong and what to do, as sentences. */
export function failureText({ message, hint }: { message: string; hint?: string }): string {
  const said = /[.!?]$/.test(message) ? message : `${message}.`;
  return hint ? `${said} ${hint}` : said;
}
