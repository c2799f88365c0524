import {
  ANY_EFFECT,
  type ArgumentRules,
  allEffects,
  allSteps,
  annotationsOf,
  asPindroError,
  asSent,
  distinctNames,
  type Effects,
  type Exposure,
  effectsOf,
  effectsOfTool,
  estimateTokens,
  type FlowDocument,
  iconsOf,
  inputSchema,
  isObject,
  type JsonObject,
  type JsonSchema,
  PindroError,
  type ReviewedTool,
  resultSchema,
  rulesFor,
  type Stage,
  seenSchema,
  select,
  sendable,
  type ToolDescription,
} from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { ServerStore } from '../servers/store.js';
import type { EndpointDocument, ExposedEntry } from './document.js';

/** An exposed tool with all that serving it needs. */
export interface ServedTool extends Omit<Exposure, 'target'> {
  target: Exposure['target'] | { builtIn: string };
  title: string | undefined;
  /** The schema as the client sees it. */
  seen: JsonObject;
  /** What its result is certain to look like; null where nothing is. */
  returns: JsonSchema | null;
  annotations: JsonObject;
  /** Parts that cannot be sent. */
  left: readonly string[];
  /** The annotations before anybody corrected them. */
  worked: JsonObject;
  effects: Effects;
  /** The words of the flow or tool itself. */
  own: { title: string; description: string };
  /** Whether it is there because its whole server is. */
  passed: boolean;
  /** For a tool of a built-in endpoint: whether a key must say that it may propose. */
  builtIn?: { wider: boolean };
  /** Why it cannot be called now, if so. */
  trouble: string | null;
  /** As it is sent in a list of tools. */
  sent: JsonObject;
  tokens: number;
  /** How many steps its flow has, to tell how far a call is. */
  steps: number;
  /** The rules of the endpoint, and those of the tool server, which they override. */
  ruledBy?: { own: ArgumentRules; server: ArgumentRules };
  /** Whether a flow returns a result; omitted if unknown. */
  hasResult?: boolean;
}

interface Parts {
  flows: FlowStore;
  servers: ServerStore;
  /** The tools of an endpoint, for an agent that has one in its toolbox. */
  endpoint(name: string): EndpointDocument | null;
}

/** Flows may call one another this deep before their effects are assumed to be any. */
const DEEPEST = 10;

/** Works out what an endpoint serves at a stage. */
export class Server {
  constructor(
    private readonly parts: Parts,
    private readonly stage: Stage,
  ) {}

  tools(document: EndpointDocument): ServedTool[] {
    const chosen = Object.entries(document.tools).map(([name, entry]) => this.#tool(name, entry));
    const taken = new Set(
      chosen.flatMap(({ target }) => ('server' in target ? [`${target.server}.${target.tool}`] : [])),
    );
    const passed = Object.entries(document.servers).flatMap(([server, { use, arguments: rules, credential }]) => {
      const tools = this.#serverTools(server);
      const { chosen: names } = select(
        tools.map((tool) => tool.name),
        use,
      );
      return names
        .filter((tool) => !taken.has(`${server}.${tool}`))
        .map((tool) => ({
          source: server,
          name: tool,
          entry: { server, tool, ...(credential && { credential }) },
          rules: rules ?? {},
        }));
    });
    const names = distinctNames([...chosen.map(({ name }) => ({ name, source: 'flow' })), ...passed]);
    // What was chosen by name keeps it, whatever a server calls its tools.
    const own = new Set(chosen.map(({ name }) => name));
    const fresh = passed.map(({ entry, rules }, index) => {
      const name = names[chosen.length + index]!;
      const known = this.#toolsOf(entry.server).get(entry.tool)!;
      const fitting = Object.fromEntries(
        Object.entries(rules).filter(([argument]) => argument in ((known.inputSchema.properties as object) ?? {})),
      );
      const free = own.has(name) ? `${entry.server.replaceAll('-', '_')}__${name}`.slice(0, 64) : name;
      return { ...this.#tool(free, { ...entry, arguments: fitting }), passed: true };
    });
    return [...chosen, ...fresh];
  }

  #tool(name: string, entry: ExposedEntry): ServedTool {
    const own = 'flow' in entry ? this.#ofFlow(entry.flow) : this.#ofServer(entry.server, entry.tool);
    const serverRules = 'server' in entry && own.tool ? this.parts.servers.repository.rules(entry.server) : undefined;
    const rules = serverRules ? rulesFor(own.tool!, serverRules, entry.arguments) : (entry.arguments ?? {});
    const title = entry.title ?? own.title;
    const description = entry.description ?? own.description;
    const seen = seenSchema(own.schema, rules);
    // What a server says of its tool is passed on as it is; what it does not say stays unsaid.
    const worked = (own.tool ? (own.tool.annotations ?? {}) : annotationsOf(own.effects)) as JsonObject;
    const annotations = { ...worked, ...(entry.annotations as JsonObject | undefined) };
    const returns = (entry.returns as JsonSchema | undefined) ?? own.returns;
    const icons = entry.icon === undefined ? own.tool?.icons : iconsOf(entry.icon);
    const { tool: sent, left } = sendable({
      name,
      ...(title && { title }),
      description,
      inputSchema: seen,
      ...(returns && { outputSchema: returns }),
      annotations: { ...(title && { title }), ...annotations },
      ...(icons && { icons }),
      ...(own.tool?._meta && { _meta: own.tool._meta }),
    });
    return {
      name,
      title: title || undefined,
      description,
      schema: own.schema,
      rules,
      seen,
      returns: isObject(sent.outputSchema) ? sent.outputSchema : null,
      left,
      annotations,
      worked,
      effects: own.effects,
      own: { title: own.title, description: own.description },
      passed: false,
      ruledBy: { own: entry.arguments ?? {}, server: serverRules ?? {} },
      target: targetOf(entry),
      trouble: own.trouble,
      sent,
      steps: own.steps,
      ...(own.hasResult !== undefined && { hasResult: own.hasResult }),
      tokens: estimateTokens(asSent({ name, description, inputSchema: seen })),
    };
  }

  #ofFlow(flow: string) {
    let document: FlowDocument | null = null;
    let trouble: string | null = null;
    try {
      ({ document } = this.parts.flows.loadNow(flow, this.stage));
    } catch (error) {
      const { message, hint } = asPindroError(error);
      trouble = `${message}. ${hint}`;
    }
    const effects = document ? this.effects(document) : ANY_EFFECT;
    return {
      tool: null,
      title: document?.title ?? '',
      description: document?.description ?? document?.title ?? '',
      schema: document ? inputSchema(document) : {},
      steps: Object.keys(document?.steps ?? {}).length,
      hasResult: document ? hasResult(document) : undefined,
      effects,
      // What waits answers with where it stands, which is not its result.
      returns: document && !effects.waits ? resultSchema(document) : null,
      trouble,
    };
  }

  #ofServer(server: string, name: string) {
    const tool = this.#toolsOf(server).get(name) ?? null;
    const held =
      tool || !this.parts.servers.names().includes(server) ? null : this.parts.servers.repository.whyHeld(server, name);
    return {
      tool,
      title: tool?.title ?? '',
      description: tool?.description ?? '',
      schema: tool?.inputSchema ?? {},
      steps: 1,
      hasResult: undefined,
      effects: tool ? effectsOfTool(tool) : ANY_EFFECT,
      returns: tool?.outputSchema && isObject(tool.outputSchema) ? tool.outputSchema : null,
      trouble: tool?.taskOnly
        ? 'The tool runs only as a task, which an ordinary call cannot start. Choose another tool of the server.'
        : tool
          ? null
          : held !== null
            ? `The tool is on hold: ${held}. Review the change on the page of tool server "${server}", and accept or reject it.`
            : `Tool server "${server}" no longer has a tool "${name}". Refresh the server, or remove the tool from the endpoint.`,
    };
  }

  #serverTools(server: string): ToolDescription[] {
    return [...this.#toolsOf(server).values()];
  }

  /** Cached during one derivation. */
  readonly #known = new Map<string, ReadonlyMap<string, ToolDescription>>();
  #toolsOf(server: string): ReadonlyMap<string, ToolDescription> {
    const known = this.#known.get(server);
    if (known) return known;
    const list = this.parts.servers.names().includes(server) ? this.parts.servers.repository.tools(server) : [];
    const tools = new Map(list.map((tool) => [tool.name, tool]));
    this.#known.set(server, tools);
    return tools;
  }

  /** What a flow does to the world, with all that it calls. */
  effects(document: FlowDocument, deep = 0): Effects {
    return effectsOf(document, (use) => {
      if (deep >= DEEPEST) return ANY_EFFECT;
      try {
        if ('flow' in use) return this.effects(this.parts.flows.loadNow(use.flow, this.stage).document, deep + 1);
        if ('server' in use) {
          const tools = this.#serverTools(use.server);
          const { chosen } = select(
            tools.map((tool) => tool.name),
            use.use,
          );
          return allEffects(tools.filter((tool) => chosen.includes(tool.name)).map(effectsOfTool));
        }
        const carried = this.parts.endpoint(use.endpoint);
        if (!carried) return ANY_EFFECT;
        const entries = Object.entries(carried.tools);
        const { chosen } = select(
          entries.map(([name]) => name),
          use.use,
        );
        return allEffects(
          entries
            .filter(([name]) => chosen.includes(name))
            .map(([, entry]) =>
              'flow' in entry
                ? this.effects(this.parts.flows.loadNow(entry.flow, this.stage).document, deep + 1)
                : this.#ofServer(entry.server, entry.tool).effects,
            ),
        );
      } catch (error) {
        if (error instanceof PindroError) return ANY_EFFECT;
        throw error;
      }
    });
  }
}

/** Whether it is read-only; null if unknown. */
function readsOnly({ annotations, effects }: ServedTool): boolean | null {
  if (typeof annotations.readOnlyHint === 'boolean' && annotations.readOnlyHint !== !effects.writes)
    return annotations.readOnlyHint;
  return effects.writes && effects.assumed ? null : !effects.writes;
}

/** A served tool for the review. Flows limit their own searches. */
export const reviewed = (tool: ServedTool): ReviewedTool => ({
  name: tool.name,
  title: tool.title,
  description: tool.description,
  inputSchema: tool.seen,
  outputSchema: tool.returns,
  readOnly: readsOnly(tool),
  left: tool.left,
  bounded: !('server' in tool.target),
  ...(tool.hasResult !== undefined && { hasResult: tool.hasResult }),
});

/** Whether a flow has a result, or a step that gives one. */
const hasResult = (document: FlowDocument): boolean =>
  document.result !== undefined ||
  [...allSteps(document.steps)].some(({ step }) => step.kind === 'answer' || step.kind === 'stop');

const targetOf = (entry: ExposedEntry): Exposure['target'] => {
  if ('flow' in entry) return { flow: entry.flow };
  const { server, tool, credential } = entry;
  return { server, tool, ...(credential && { credential }) };
};
