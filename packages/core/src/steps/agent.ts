import { type AgentConfig, agentConfig } from '../agent/config.js';
import { runAgent } from '../agent/loop.js';
import { memoryKey } from '../agent/memory/memory.js';
import { fillInstructions, fillToolbox } from '../agent/toolbox/stored-values.js';
import { layOutToolbox } from '../agent/toolbox/toolbox.js';
import { asJson, isObject, type JsonObject } from '../json/json.js';
import { defineKind, fixedName, type Uses } from './kind.js';
import { keptNames, toolboxMistakes, toolboxWarnings } from './tool/names.js';

const rows = (raw: JsonObject): JsonObject[] => (Array.isArray(raw.toolbox) ? raw.toolbox.filter(isObject) : []);
const named = (raw: JsonObject, part: string) => rows(raw).flatMap((row) => fixedName(row[part]));

/** What the tools of a toolbox keep of their results. */
const keptTypes = (raw: JsonObject) => Object.fromEntries(keptNames(raw.toolbox).map((name) => [name, 'dyn']));

export const agent = defineKind<AgentConfig>({
  name: 'agent',
  title: 'Agent',
  about: 'Lets a language model work on a message with the tools of its toolbox until it has an answer.',
  config: agentConfig,
  // The conversation is in the journal, so a resumed run knows its calls.
  resumable: true,
  receipt: true,
  late: { reads: 'kept', parts: ['instructions', 'toolbox'], type: keptTypes },
  repeatable: () => false,
  effects: () => ({ outside: true }),
  uses: (raw) => (Array.isArray(raw.toolbox) ? (raw.toolbox as unknown as Uses[]) : []),
  branches: () => [],
  sentence: (raw) => {
    const turns = isObject(raw.memory) ? `, remembering ${raw.memory.turns ?? 12} turns` : ', without memory';
    return ['Ask ', { value: raw.model ?? '' }, ' about ', { value: raw.message ?? '' }, turns];
  },
  output: () => ({
    answer: 'string',
    rounds: 'int',
    tokens: { input: 'int', output: 'int' },
    cost: 'double',
    calls: 'list<map<string, dyn>>',
    receipt: 'map<string, dyn>',
  }),
  mistakes: (raw, surroundings) => toolboxMistakes(raw.toolbox, surroundings),
  warnings: (raw, surroundings) => toolboxWarnings(raw.toolbox, surroundings),
  references: (raw) => ({
    models: fixedName(raw.model),
    servers: named(raw, 'server'),
    endpoints: named(raw, 'endpoint'),
    flows: named(raw, 'flow'),
  }),
  run: async (config, context) => {
    const connection = await context.run.ports.models.connection(config.model);
    const { raw, fill } = context;
    const instructions = (kept: JsonObject) =>
      raw.has('instructions') ? fillInstructions(config.instructions, kept, fill) : config.instructions;
    const rows = raw.has('toolbox') ? fillToolbox(config.toolbox, fill) : config.toolbox;
    const toolbox = await layOutToolbox(rows, context);
    const { head } = context.recorder;
    const { ports, flow, stage } = context.run;
    const memory = config.memory
      ? memoryKey(config.memory, { ...context.run, path: context.path, session: head.session ?? head.id })
      : null;
    const chosenAt = (await ports.flows.chosenAt?.(flow, stage)) ?? null;
    const answer = await runAgent({ config, toolbox, connection, context, memory, instructions, fill, chosenAt });
    return { output: asJson(answer) };
  },
});
