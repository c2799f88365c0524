import { z } from 'zod';
import type { Json } from '../json.js';
import { json } from './document.js';
import { defineKind } from './kind.js';

const config = z.strictObject({
  result: json.meta({ title: 'Answer', description: 'What the caller gets, now' }),
});

export const answer = defineKind<z.infer<typeof config>>({
  name: 'answer',
  title: 'Answer',
  about: 'Gives the caller its answer now, and goes on. The first answer counts; a later failure marks only the run.',
  config,
  repeatable: () => true,
  branches: () => [],
  sentence: (raw) => ['Answer the caller with ', { value: raw.result ?? '' }, ', and go on'],
  output: () => ({}),
  references: () => ({}),
  run: async ({ result }, context) => {
    await context.answer(result as Json);
    return { output: {} };
  },
});
