import { z } from 'zod';
import { DURATION } from '../duration.js';
import { CREDENTIAL_OWNERS } from '../ports.js';
import { toolSettings } from '../tools/settings.js';

/** What to do with a call whose arguments no user input explains. */
export const UNEXPLAINED = ['ask', 'stop', 'allow'] as const;
export type Unexplained = (typeof UNEXPLAINED)[number];

const named = (form: 'endpoint' | 'server' | 'flow' | 'model') => z.string().meta({ form });

const off = z
  .boolean()
  .optional()
  .meta({ title: 'Off', description: 'Keeps the row with all its settings, and offers none of its tools' });

const chosen = {
  off,
  use: z.array(z.string()).optional().meta({
    title: 'Which tools',
    description: 'Names and patterns with *; a leading ! leaves one out; without it all tools',
    form: 'tools',
  }),
  tools: z
    .record(z.string(), toolSettings)
    .optional()
    .meta({ title: 'Tool by tool', description: 'What is different for single tools', form: 'by-tool' }),
  instructions: z.boolean().optional().meta({
    title: 'Its instructions',
    description: 'Whether the model reads what it says of itself; it does if left out',
  }),
};

/** One row of an agent's toolbox. */
export const toolboxEntry = z.union([
  z
    .strictObject({
      endpoint: named('endpoint').meta({
        title: 'Endpoint',
        description: 'One of our own endpoints, called in process',
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
          title: 'Whose credential',
          description: "Whose credential goes along; the server's own if left out",
          words: { workspace: "the server's own", caller: "the caller's" },
        }),
      unexplained: z
        .enum(UNEXPLAINED)
        .optional()
        .meta({
          title: 'Unexplained arguments',
          description:
            'What happens where an argument repeats instructions, memory, earlier messages or results of other servers; it requires approval if left out',
          words: { ask: 'require approval', stop: 'stop the call', allow: 'send them' },
        }),
      untrusted: z.boolean().optional().meta({
        title: 'Untrusted',
        description: 'Whether calls with side effects require approval once anything of this server has been read',
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
      title: 'Key',
      description: 'What tells one memory from another; the conversation if left out',
      examples: ['${ session.id }', '${ caller.id }'],
    }),
  turns: z
    .number()
    .int()
    .min(1)
    .max(200)
    .default(12)
    .meta({ title: 'Kept', description: 'How many exchanges are kept', unit: 'exchanges' }),
  tokens: z
    .number()
    .int()
    .min(100)
    .max(1_000_000)
    .default(8000)
    .meta({ title: 'As long as', description: 'How much of them is kept, results of tools among it', unit: 'tokens' }),
  expires: z.string().regex(DURATION, 'must be a duration such as 30d').optional().meta({
    title: 'Forgotten after',
    description: 'What nobody added to for so long is forgotten; never if left out',
    form: 'duration',
  }),
  abstract: z.boolean().default(false).meta({
    title: 'Abstract',
    description: 'Whether the model sums up what falls out of it, so that it is not forgotten altogether',
  }),
  notes: z.boolean().default(false).meta({
    title: 'Notes',
    description:
      'Whether it may note facts, correct them and look them up, in this conversation and in later ones of the same key',
  }),
  shared: z.boolean().default(false).meta({
    title: 'Shared',
    description: 'Whether flows and callers with the same key share the memory',
  }),
});

const tick = (title: string, description: string) => z.boolean().default(false).meta({ title, description });
const builtIn = z.strictObject({
  clock: tick('Clock', 'Time, day and weekday, in any time zone'),
  calculate: tick('Sums', 'Works out expressions exactly'),
  ask_user: tick('Asking', 'Asks the user for what is missing, by a small form, and waits for the answer'),
  fetch_page: z
    .array(z.string().regex(/^https?:\/\/[^/*\s]+(\/\S*)?$/, 'must be an address such as https://huts.example/rules/*'))
    .optional()
    .meta({ title: 'Pages', description: 'Addresses whose pages it may read; * stands for any part of a path' }),
});

export const agentConfig = z.strictObject({
  model: named('model').meta({ title: 'Model', description: 'A model connection' }),
  instructions: z
    .string()
    .default('')
    .meta({ title: 'Instructions', description: 'What the agent is to do and how', form: 'long' }),
  message: z.string().min(1).meta({ title: 'Message', description: 'What it is asked now', form: 'long' }),
  memory: memoryConfig
    .optional()
    .meta({ title: 'Memory', description: 'What it keeps between turns of one conversation' }),
  toolbox: z
    .array(toolboxEntry)
    .default([])
    .meta({ title: 'Toolbox', description: 'The tools it may use', form: 'toolbox' }),
  built_in: builtIn
    .optional()
    .meta({ title: 'Built-in tools', description: 'What it can do without anything attached' }),
  offer: z
    .enum(['all', 'look_up'])
    .default('all')
    .meta({
      title: 'Tools are offered',
      description: 'All at once, or those that fit once the model says what it needs: for a toolbox too large to read',
      words: { all: 'all at once', look_up: 'as they are looked up' },
    }),
  limits: z
    .strictObject({
      rounds: z
        .number()
        .int()
        .min(1)
        .max(100)
        .default(8)
        .meta({ title: 'Rounds', description: 'How often it may ask the model' }),
      time: z
        .string()
        .regex(DURATION, 'must be a duration such as 90s')
        .default('90s')
        .meta({ title: 'Time', description: 'How long it may take in all', form: 'duration' }),
      tokens: z
        .number()
        .int()
        .min(1)
        .default(20_000)
        .meta({ title: 'Tokens', description: 'How many tokens it may use in all' }),
      money: z
        .number()
        .positive()
        .optional()
        .meta({ title: 'Money', description: 'What its models and tools may cost in all, by the prices that are set' }),
      calls: z.number().int().min(1).max(10_000).optional().meta({
        title: 'Calls',
        description: 'How many calls of tools it may make in all, those of agents it hands work to among them',
      }),
      runs: z
        .number()
        .int()
        .min(1)
        .max(10_000)
        .optional()
        .meta({ title: 'Runs', description: 'How many runs of flows may be begun for it in all' }),
      raise: z
        .enum(['people'])
        .optional()
        .meta({
          title: 'Let it go on',
          description: 'Who is asked whether it may go on where a limit is reached; nobody if left out',
          words: { people: 'whoever answers approvals' },
        }),
    })
    .prefault({})
    .meta({ title: 'Limits', description: 'Where it is stopped' }),
});
export type AgentConfig = z.infer<typeof agentConfig>;
