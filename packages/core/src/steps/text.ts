import { z } from 'zod';
import { defineKind } from './kind.js';

const config = z.strictObject({ text: z.string().describe('The text, with values filled in by ${ }') });

export const text = defineKind<z.infer<typeof config>>({
  name: 'text',
  title: 'Text',
  about: 'Writes a text with values filled in.',
  config,
  repeatable: () => true,
  branches: () => [],
  sentence: (raw) => ['Write ', { value: raw.text ?? '' }],
  output: () => ({ text: 'string' }),
  references: () => ({}),
  run: async ({ text }) => ({ output: { text } }),
});
