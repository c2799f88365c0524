import { z } from 'zod';
import { CREDENTIAL_OWNERS } from '../ports/ports.js';
import { DURATION } from '../text/duration.js';
import { toolSettings } from '../tools/settings.js';

/** What to do with a call whose arguments no user input explains. */
export const UNEXPLAINED = ['ask', 'stop', 'allow'] as const;
export type Unexplained = (typeof UNEXPLAINED)[number];

const named = (form: 'endpoint' | 'server' | 'flow' | 'model') => z.string().meta({ form });

const off = z
  .boolean()
  .optional()
  .meta({ title: 'Disabled', description: 'Keeps the row and its settings, but offers none of its tools' });

const chosen = {
  off,
  use: z.array(z.string()).optional().meta({
    title: 'Tools',
    description: 'Names and patterns with *; a leading ! excludes. Without a list, all tools',
    form: 'tools',
  }),
  tools: z
    .record(z.string(), toolSettings)
    .optional()
    .meta({ title: 'Tool settings', description: 'Settings for single tools', form: 'by-tool' }),
  instructions: z.boolean().optional().meta({
    title: 'Server instructions',
    description: "Whether the model receives the server's instructions; on by default",
  }),
};

/** One row of an agent's toolbox. */
export const toolboxEntry = z.union([
  z
    .strictObject({
      endpoint: named('endpoint').meta({
        title: 'Endpoint',
        description: 'One of your own endpoints, called in process',
      }),
      ...chosen,
    })
    .meta({ title: 'the tools of an endpoint' }),
  z
    .strictObject({
      server: named('server').meta({ title: 'Tool server', description: 'An attached tool server' }),
      credential: z
        .enum(CREDENTIAL_OWNERS)
        .optional()
        .meta({
          title: 'Credential',
          description: "Whose credential is sent; the server's own by default",
          words: { workspace: "the server's own", caller: "the caller's own" },
        }),
      unexplained: z
        .enum(UNEXPLAINED)
        .optional()
        .meta({
          title: 'Arguments that need an explanation',
          description:
            'What happens when an argument repeats instructions, memory, earlier messages or results of other servers; requires approval by default',
          words: { ask: 'require approval', stop: 'block the call', allow: 'send it' },
        }),
      untrusted: z.boolean().optional().meta({
        title: 'Untrusted',
        description:
          'Whether calls with side effects require approval once the agent has read anything from this server',
      }),
      ...chosen,
    })
    .meta({ title: 'the tools of a tool server' }),
  z
    .strictObject({
      flow: named('flow').meta({ title: 'Flow', description: 'A flow as a tool' }),
      off,
      ...toolSettings.shape,
    })
    .meta({ title: 'a flow' }),
]);
export type ToolboxEntry = z.infer<typeof toolboxEntry>;

export const memoryConfig = z.strictObject({
  key: z
    .array(z.union([z.string(), z.number()]))
    .min(1)
    .optional()
    .meta({
      title: 'Memory key',
      description: 'Identifies a memory; the conversation by default',
      examples: ['${ session.id }', '${ caller.id }'],
    }),
  turns: z
    .number()
    .int()
    .min(1)
    .max(200)
    .default(12)
    .meta({ title: 'Turns', description: 'Number of turns to remember', unit: 'exchanges' }),
  tokens: z
    .number()
    .int()
    .min(100)
    .max(1_000_000)
    .default(8000)
    .meta({ title: 'Size', description: 'How much to remember, tool results included', unit: 'tokens' }),
  expires: z.string().regex(DURATION, 'must be a duration such as 30d').optional().meta({
    title: 'Expires after',
    description: 'Deletes a memory that has not grown for this long; never by default',
    form: 'duration',
  }),
  abstract: z.boolean().default(false).meta({
    title: 'Summary',
    description: 'Whether the model summarizes turns that drop out of memory',
  }),
  notes: z.boolean().default(false).meta({
    title: 'Notes',
    description:
      'Whether the agent may store, correct and look up facts, in this conversation and later ones with the same memory key',
  }),
  shared: z.boolean().default(false).meta({
    title: 'Shared',
    description: 'Whether flows and callers with the same key share the memory',
  }),
});

const tick = (title: string, description: string) => z.boolean().default(false).meta({ title, description });
const builtIn = z.strictObject({
  clock: tick('Clock', 'Time, date and day of the week, in any time zone'),
  calculate: tick('Calculator', 'Evaluates arithmetic exactly'),
  ask_user: tick('Questions', 'Asks the user for missing information with a short form and waits for the answer'),
  fetch_page: z
    .array(z.string().regex(/^https?:\/\/[^/*\s]+(\/\S*)?$/, 'must be an address such as https://huts.example/rules/*'))
    .optional()
    .meta({
      title: 'Web pages',
      description: 'Addresses whose pages the agent may read; * matches any part of a path',
    }),
});

export const agentConfig = z.strictObject({
  model: named('model').meta({ title: 'Model', description: 'A model connection' }),
  instructions: z
    .string()
    .default('')
    .meta({ title: 'Instructions', description: "The agent's task and how to do it", form: 'long' }),
  message: z.string().min(1).meta({ title: 'Message', description: 'The message to answer', form: 'long' }),
  memory: memoryConfig
    .optional()
    .meta({ title: 'Memory', description: 'What the agent remembers between turns of a conversation' }),
  toolbox: z
    .array(toolboxEntry)
    .default([])
    .meta({ title: 'Toolbox', description: 'Tools the agent may use', form: 'toolbox' }),
  built_in: builtIn
    .optional()
    .meta({ title: 'Built-in tools', description: 'What the agent can do without attached tools' }),
  offer: z
    .enum(['all', 'look_up'])
    .default('all')
    .meta({
      title: 'Tool loading',
      description: 'All tools at once, or only those that match a search by the model: for toolboxes too large to send',
      words: { all: 'all at once', look_up: 'on search' },
    }),
  limits: z
    .strictObject({
      rounds: z
        .number()
        .int()
        .min(1)
        .max(100)
        .default(8)
        .meta({ title: 'Rounds', description: 'Maximum number of model calls' }),
      time: z
        .string()
        .regex(DURATION, 'must be a duration such as 90s')
        .default('90s')
        .meta({ title: 'Time', description: 'Maximum total time', form: 'duration' }),
      tokens: z.number().int().min(1).default(20_000).meta({ title: 'Tokens', description: 'Maximum total tokens' }),
      money: z
        .number()
        .positive()
        .optional()
        .meta({ title: 'Cost', description: 'Maximum total cost of models and tools, by the configured prices' }),
      calls: z.number().int().min(1).max(10_000).optional().meta({
        title: 'Calls',
        description: 'Maximum number of tool calls, including calls by agents it delegates to',
      }),
      runs: z
        .number()
        .int()
        .min(1)
        .max(10_000)
        .optional()
        .meta({ title: 'Runs', description: 'Maximum number of flow runs started on its behalf' }),
      raise: z
        .enum(['people'])
        .optional()
        .meta({
          title: 'Extend limits',
          description: 'Who may extend a limit that is reached; nobody by default',
          words: { people: 'anyone who may approve' },
        }),
    })
    .prefault({})
    .meta({ title: 'Limits', description: 'When the agent stops' }),
});
export type AgentConfig = z.infer<typeof agentConfig>;
