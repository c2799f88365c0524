import { z } from 'zod';
import { PindroError } from '../errors.js';
import type { Json } from '../json.js';
import type { ArgumentRules } from '../ports.js';
import { didYouMean } from '../suggest.js';
import { callServerTool } from '../tools/call.js';
import { rulesFor } from '../tools/rules.js';
import { defineKind, fixedName } from './kind.js';

const config = z.strictObject({
  server: z.string().describe('An attached tool server'),
  tool: z.string().describe('Which of its tools'),
  arguments: z
    .record(z.string(), z.json() as z.ZodType<Json>)
    .default({})
    .describe('What the tool is given'),
});

export const tool = defineKind<z.infer<typeof config>>({
  name: 'tool',
  title: 'Call a tool',
  about: 'Calls one tool of an attached tool server, without an agent.',
  config,
  repeatable: () => false,
  branches: () => [],
  sentence: (raw) => [
    'Call ',
    { value: raw.tool ?? '' },
    ' of ',
    { value: raw.server ?? '' },
    ...(raw.arguments ? [' with ', { value: raw.arguments }] : []),
  ],
  output: () => ({ text: 'string', data: 'dyn', content: 'list<map<string, dyn>>' }),
  references: (raw) => ({ servers: fixedName(raw.server) }),
  run: async (config, context) => {
    const described = await context.ports.toolServers.describe(config.server, context);
    const known = described.tools.find((candidate) => candidate.name === config.tool);
    if (!known) {
      if (described.unreachable && described.tools.length === 0) throw PindroError.from(described.unreachable);
      const names = described.tools.map((candidate) => candidate.name);
      throw new PindroError(
        'tool_unknown',
        { tool: config.tool, where: `tool server "${config.server}"`, suggestion: didYouMean(config.tool, names) },
        { at: '/with/tool', details: { server: config.server, tool: config.tool } },
      );
    }
    const shared = context.fill(described.rules as unknown as Json, ['server']) as unknown as ArgumentRules;
    const { text, data, content } = await callServerTool(
      config.server,
      known,
      rulesFor(known, shared),
      config.arguments,
      context,
    );
    return { output: { text, data, content } };
  },
});
