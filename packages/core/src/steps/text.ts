import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import { defineKind } from './kind.js';

const config = z.strictObject({
  // A lone expression keeps the type of its value; written out, everything is text.
  text: anyJson.meta({ title: 'Text', description: 'The text, with values filled in by ${ }', form: 'long' }),
});

export const text = defineKind<z.infer<typeof config>>({
  name: 'text',
  title: 'Text',
  about: 'Creates text from a template.',
  config,
  repeatable: () => true,
  branches: () => [],
  sentence: (raw) => ['Write ', { value: raw.text ?? '' }],
  output: () => ({ text: 'string' }),
  references: () => ({}),
  run: async ({ text }) => ({ output: { text: typeof text === 'string' ? text : JSON.stringify(text) } }),
});
