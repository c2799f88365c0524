import { z } from 'zod';
import { toolboxEntry } from '../agent/config.js';
import { askOnce } from '../agent/conversation/ask-model.js';
import { layOutToolbox } from '../agent/toolbox/toolbox.js';
import { PindroError } from '../errors/errors.js';
import { isObject, type Json, type JsonSchema } from '../json/json.js';
import { jsonMistake } from '../json/json-mistake.js';
import type { Turn } from '../models/dialect.js';
import { sentence, validate } from '../tools/schema.js';
import { json, named } from './document.js';
import { defineKind, fixedName } from './kind.js';
import { toolboxMistakes, toolboxWarnings } from './tool/names.js';

const config = z.strictObject({
  model: named('model').meta({ title: 'Model', description: 'A model connection' }),
  instructions: z
    .string()
    .default('')
    .meta({ title: 'Instructions', description: "The model's task and how to do it", form: 'long' }),
  message: z.string().min(1).meta({ title: 'Message', description: 'The message to answer', form: 'long' }),
  schema: z
    .record(z.string(), json)
    .optional()
    .meta({ title: 'Answer schema', description: 'JSON Schema that the answer must match', form: 'schema' }),
  toolbox: z
    .array(toolboxEntry)
    .default([])
    .meta({ title: 'Toolbox', description: 'Tools to choose from; none is called', form: 'toolbox' }),
});

export const model = defineKind<z.infer<typeof config>>({
  name: 'model',
  title: 'Ask a model',
  about: 'Asks a language model once, for text, for data in a schema, or for the tool calls it would make.',
  config,
  raw: ['schema'],
  plain: ['schema'],
  repeatable: () => true,
  effects: () => ({ outside: true }),
  branches: () => [],
  sentence: (raw) => [
    'Ask ',
    { value: raw.model ?? '' },
    ' about ',
    { value: raw.message ?? '' },
    isObject(raw.schema)
      ? `, answered as ${Object.keys(isObject(raw.schema.properties) ? raw.schema.properties : {}).join(', ') || 'data'}`
      : '',
  ],
  output: () => ({
    text: 'string',
    data: 'dyn',
    calls: 'list<map<string, dyn>>',
    tokens: { input: 'int', output: 'int' },
  }),
  mistakes: (raw, surroundings) => toolboxMistakes(raw.toolbox, surroundings),
  warnings: (raw, surroundings) => toolboxWarnings(raw.toolbox, surroundings),
  references: (raw) => {
    const rows = Array.isArray(raw.toolbox) ? raw.toolbox.filter(isObject) : [];
    return {
      models: fixedName(raw.model),
      servers: rows.flatMap((row) => fixedName(row.server)),
      endpoints: rows.flatMap((row) => fixedName(row.endpoint)),
      flows: rows.flatMap((row) => fixedName(row.flow)),
    };
  },
  run: async ({ model, instructions, message, schema, toolbox }, context) => {
    const connection = await context.run.ports.models.connection(model);
    const { tools } = await layOutToolbox(toolbox, context);
    const turns: Turn[] = [
      ...(instructions ? [{ role: 'system' as const, text: instructions }] : []),
      { role: 'user', text: message },
    ];
    const answer = await askOnce(connection, turns, tools, context, { attributes: {}, schema: schema as JsonSchema });
    // Half of an answer is no data, and a text that stops in the middle is not what was asked for.
    if (answer.end === 'length') throw new PindroError('model_cut_off', { model }, { details: { model } });
    if (answer.end === 'refusal')
      throw new PindroError('model_declined', { model, why: answer.text || answer.stop }, { details: { model } });
    return {
      output: {
        text: answer.text,
        data: schema ? readData(model, answer.text, schema as JsonSchema) : null,
        calls: answer.calls.map(({ name, arguments: args }) => ({ tool: name, arguments: args })),
        tokens: { input: answer.usage.input, output: answer.usage.output },
      },
    };
  },
});

/** The answer as data. @throws model_garbage when it does not fit */
function readData(model: string, text: string, schema: JsonSchema): Json {
  let data: Json;
  try {
    data = JSON.parse(text.replace(/^\s*```(?:json)?|```\s*$/g, '')) as Json;
  } catch (error) {
    throw new PindroError('model_garbage', { model, why: `the answer is not JSON: ${jsonMistake(error)}` });
  }
  const mistakes = validate(schema, data);
  if (mistakes.length > 0) throw new PindroError('model_garbage', { model, why: sentence(mistakes) });
  return data;
}
