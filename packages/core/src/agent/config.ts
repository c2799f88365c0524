import { z } from 'zod';
import { DURATION } from '../duration.js';
import { CREDENTIAL_OWNERS } from '../ports.js';
import { argumentRules } from '../tools/rules.js';

const toolChange = z.strictObject({
  when: z.string().optional().describe('When the model should use the tool; put in front of its own description'),
  description: z.string().optional().describe('Replaces the description of the tool'),
  arguments: argumentRules.optional().describe('Who supplies each argument'),
});

const chosen = {
  use: z
    .array(z.string())
    .optional()
    .describe('Names and patterns with *; a leading ! leaves one out; without it all tools'),
  tools: z.record(z.string(), toolChange).optional().describe('What is different for single tools'),
};

/** One row of an agent's toolbox. */
export const toolboxEntry = z.union([
  z.strictObject({ endpoint: z.string().describe('One of our own endpoints, called in process'), ...chosen }),
  z.strictObject({
    server: z.string().describe('An attached tool server'),
    credential: z
      .enum(CREDENTIAL_OWNERS)
      .optional()
      .describe("Whose credential goes along; the server's own if left out"),
    ...chosen,
  }),
  z.strictObject({
    flow: z.string().describe('A flow as a tool'),
    name: z.string().optional(),
    description: z.string().optional(),
    arguments: argumentRules.optional(),
  }),
]);
export type ToolboxEntry = z.infer<typeof toolboxEntry>;

export const memoryConfig = z.strictObject({
  key: z
    .array(z.union([z.string(), z.number()]))
    .min(1)
    .describe('What tells one conversation from another'),
  turns: z.number().int().min(1).max(200).default(12).describe('How many exchanges are kept'),
  shared: z.boolean().default(false).describe('Whether flows and callers with the same key share the memory'),
});

export const agentConfig = z.strictObject({
  model: z.string().describe('A model connection'),
  instructions: z.string().default('').describe('What the agent is to do and how'),
  message: z.string().min(1).describe('What it is asked now'),
  memory: memoryConfig.optional().describe('What it keeps between turns of one conversation'),
  toolbox: z.array(toolboxEntry).default([]).describe('The tools it may use'),
  limits: z
    .strictObject({
      rounds: z.number().int().min(1).max(100).default(8).describe('How often it may ask the model'),
      time: z
        .string()
        .regex(DURATION, 'must be a duration such as 90s')
        .default('90s')
        .describe('How long it may take in all'),
      tokens: z.number().int().min(1).default(20_000).describe('How many tokens it may use in all'),
    })
    .prefault({}),
});
export type AgentConfig = z.infer<typeof agentConfig>;
