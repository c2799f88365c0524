import { asJson, ownOf, setOwn } from '../../json/json.js';
import type { ArgumentRules, Exposure } from '../../ports/ports.js';
import { seenSchema } from '../rules.js';
import type { SourceContext, SourceTool, ToolSource } from '../source.js';
import { refuseBrokenRules } from '../wrap/rules.js';
import { flowTool } from './flow.js';
import { seenOf, serverTool } from './server.js';

/** The tools of one of our own endpoints, called in process, with the words and rules that they have there. */
export const endpointSource = (
  endpoint: string,
  settings: { rulesOf(tool: string): ArgumentRules | undefined },
): ToolSource => ({
  name: endpoint,
  list: async (context, choose) => {
    const { endpoints } = context.run.ports;
    const exposures = await endpoints.exposures(endpoint, context.run.stage);
    const instructions = (await endpoints.instructions?.(endpoint)) ?? '';
    const chosen = new Set(choose(exposures.map(({ name }) => name)));
    const tools: SourceTool[] = [];
    const held: Record<string, string> = {};
    for (const one of exposures.filter(({ name }) => chosen.has(name))) {
      const tool = await exposed(one, settings.rulesOf(one.name) ?? {}, context);
      if (typeof tool === 'string') setOwn(held, one.name, tool);
      else tools.push(tool);
    }
    return { tools, instructions, held };
  },
});

/** @returns the tool, or why it cannot be used now: the others are not touched by that */
async function exposed(exposure: Exposure, own: ArgumentRules, context: SourceContext): Promise<SourceTool | string> {
  const { name, description, target, schema: inputSchema } = exposure;
  const filled = context.fill(asJson(exposure.rules), ['toolbox']) as unknown as ArgumentRules;
  const rules = { ...filled, ...own };
  refuseBrokenRules({ name, inputSchema }, rules);
  if ('flow' in target) {
    const { reads, document } = await context.run.ports.flows.load(target.flow, context.run.stage);
    const identity = JSON.stringify(document);
    return flowTool(target.flow, { name, inputSchema, description, reads, identity }, rules, context);
  }
  const described = await context.run.ports.toolServers.describe(target.server, context);
  const why = ownOf(described.held, target.tool);
  if (why !== undefined) return why;
  const tool = described.tools.find((candidate) => candidate.name === target.tool);
  if (!tool) return `tool server "${target.server}" no longer has a tool "${target.tool}"`;
  const called = serverTool(target.server, tool, rules, target.credential, described.place);
  return { ...called, ...seenOf(described, tool.name), name, description, schema: seenSchema(inputSchema, rules) };
}
