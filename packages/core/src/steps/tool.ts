import { z } from 'zod';
import { PindroError } from '../errors/errors.js';
import { asJson, ownOf } from '../json/json.js';
import { type ArgumentRules, CREDENTIAL_OWNERS } from '../ports/ports.js';
import { didYouMean } from '../text/suggest.js';
import { callServerTool } from '../tools/call.js';
import { rulesFor } from '../tools/rules.js';
import { json, named } from './document.js';
import { defineKind, fixedName, type StepOutcome } from './kind.js';
import { toolMistakes } from './tool/names.js';

const config = z
  .strictObject({
    server: named('server').meta({ title: 'Tool server', description: 'An attached tool server' }),
    do: z
      .enum(['call', 'list'])
      .default('call')
      .meta({
        title: 'Action',
        description: 'Call a tool, or list the tools',
        words: { call: 'call a tool', list: 'list tools' },
      }),
    tool: z.string().optional().meta({ title: 'Tool', description: 'Tool to call', form: 'tool' }),
    credential: z
      .enum(CREDENTIAL_OWNERS)
      .default('workspace')
      .meta({
        title: 'Credential',
        description: "Credential to send: the server's own, or the one that the caller's key names for it",
        words: { workspace: "the server's own", caller: "the caller's own" },
      }),
    arguments: z
      .record(z.string(), json)
      .default({})
      .meta({ title: 'Arguments', description: 'Arguments of the call', form: 'arguments' }),
    rules: z
      .enum(['server', 'none'])
      .default('server')
      .meta({
        title: 'Argument rules',
        description: "Whether the server's argument rules apply; with none, this step supplies every argument",
        words: { server: "the server's", none: 'none' },
      }),
  })
  .refine((given) => given.do === 'list' || given.tool !== undefined, {
    path: ['tool'],
    message: 'is missing; set it to the tool to call',
  });

export const tool = defineKind<z.infer<typeof config>>({
  name: 'tool',
  title: 'Call a tool',
  about: 'Calls one tool of an attached tool server without an agent, or lists its tools.',
  config,
  repeatable: (raw) => raw.do === 'list',
  effects: () => ({ outside: true }),
  uses: (raw) => (raw.do === 'list' ? [] : [{ server: String(raw.server), use: [String(raw.tool)] }]),
  branches: () => [],
  sentence: (raw) =>
    raw.do === 'list'
      ? ['List the tools of ', { value: raw.server ?? '' }]
      : [
          'Call ',
          { value: raw.tool ?? '' },
          ' of ',
          { value: raw.server ?? '' },
          ...(raw.arguments ? [' with ', { value: raw.arguments }] : []),
        ],
  output: (raw): Record<string, string> =>
    raw.do === 'list'
      ? { tools: 'list<map<string, dyn>>', count: 'int' }
      : { text: 'string', data: 'dyn', content: 'list<map<string, dyn>>' },
  references: (raw) => ({ servers: fixedName(raw.server) }),
  mistakes: (raw, surroundings) => (raw.do === 'list' ? [] : toolMistakes(raw, surroundings)),
  run: async (config, context): Promise<StepOutcome> => {
    const described = await context.run.ports.toolServers.describe(config.server, context);
    if (described.unreachable && (config.do === 'list' || described.tools.length === 0))
      throw PindroError.from(described.unreachable);
    if (config.do === 'list') {
      const tools = described.tools.map((tool) => ({ ...tool, description: tool.description ?? '' }));
      return { output: { tools: asJson(tools), count: tools.length } };
    }
    const wanted = config.tool!;
    const known = described.tools.find((candidate) => candidate.name === wanted);
    const why = ownOf(described.held, wanted);
    if (why !== undefined)
      throw new PindroError(
        'tool_held',
        { tool: wanted, server: config.server, why },
        { at: '/with/tool', details: { server: config.server, tool: wanted } },
      );
    if (!known) {
      const names = described.tools.map((candidate) => candidate.name);
      throw new PindroError(
        'tool_unknown',
        { tool: wanted, where: `tool server "${config.server}"`, suggestion: didYouMean(wanted, names) },
        { at: '/with/tool', details: { server: config.server, tool: wanted } },
      );
    }
    if (known.taskOnly)
      throw new PindroError(
        'tool_only_task',
        { tool: `${config.server}.${wanted}` },
        { at: '/with/tool', details: { server: config.server, tool: wanted } },
      );
    const shared =
      config.rules === 'none' ? {} : (context.fill(asJson(described.rules), ['server']) as unknown as ArgumentRules);
    const { server, credential } = config;
    const called = { server, tool: known, rules: rulesFor(known, shared), credential };
    const { text, data, content } = await callServerTool(called, config.arguments, context);
    return { output: { text, data, content } };
  },
});
