import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import { defineKind } from './kind.js';

const config = z.strictObject({
  as: z.enum(['done', 'failed']).default('done').meta({ title: 'Status', description: 'Status of the run' }),
  message: z
    .string()
    .default('')
    .meta({ title: 'Message', description: 'The message returned to the caller', form: 'long' }),
  result: anyJson.optional().meta({ title: 'Result', description: 'The result, if the status is done' }),
});

export const stop = defineKind<z.infer<typeof config>>({
  name: 'stop',
  title: 'Stop',
  about: 'Ends the run as done or as failed, with a message.',
  config,
  repeatable: () => true,
  branches: () => [],
  sentence: (raw) => [
    raw.as === 'failed' ? 'Stop as failed: ' : 'Stop as done: ',
    { value: raw.message ?? raw.result ?? '' },
  ],
  output: () => ({}),
  references: () => ({}),
  run: async ({ as, message, result }) => ({ output: {}, ends: { as, message, result: result ?? (message || null) } }),
});
