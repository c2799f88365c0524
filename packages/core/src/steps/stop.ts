import { z } from 'zod';
import { anyJson } from '../any-json.js';
import { defineKind } from './kind.js';

const config = z.strictObject({
  as: z.enum(['done', 'failed']).default('done').meta({ title: 'Ends as', description: 'How the run ends' }),
  message: z
    .string()
    .default('')
    .meta({ title: 'Message', description: 'The message returned to the caller', form: 'long' }),
  result: anyJson.optional().meta({ title: 'Result', description: 'The result, when it ends as done' }),
});

export const stop = defineKind<z.infer<typeof config>>({
  name: 'stop',
  title: 'Stop',
  about: 'Ends the run here, as done or as failed, with a message.',
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
