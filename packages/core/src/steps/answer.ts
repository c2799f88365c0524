import { z } from 'zod';
import type { Json } from '../json/json.js';
import { json } from './document.js';
import { defineKind } from './kind.js';

const config = z.strictObject({
  result: json.meta({ title: 'Answer', description: 'Answer for the caller' }),
});

export const answer = defineKind<z.infer<typeof config>>({
  name: 'answer',
  title: 'Answer',
  about:
    'Returns the answer to the caller immediately, and continues. The first answer counts; a later failure affects only the run.',
  config,
  repeatable: () => true,
  branches: () => [],
  sentence: (raw) => ['Answer the caller with ', { value: raw.result ?? '' }, ', and continue'],
  output: () => ({}),
  references: () => ({}),
  run: async ({ result }, context) => {
    await context.services.answer(result as Json);
    return { output: {} };
  },
});
