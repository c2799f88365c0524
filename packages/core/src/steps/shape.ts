import { z } from 'zod';
import { isObject, type Json } from '../json.js';
import { json } from './document.js';
import { defineKind } from './kind.js';

const config = z.strictObject({
  value: json.meta({ title: 'Value', description: 'What comes out, with expressions where values go' }),
});

export const shape = defineKind<z.infer<typeof config>>({
  name: 'shape',
  title: 'Shape',
  about: 'Makes new data out of what is there, by expression.',
  config,
  repeatable: () => true,
  branches: () => [],
  sentence: (raw) => ['Make ', { value: raw.value ?? '' }],
  output: (raw) => ({
    value: isObject(raw.value) ? Object.fromEntries(Object.keys(raw.value).map((name) => [name, 'dyn'])) : 'dyn',
  }),
  references: () => ({}),
  run: async ({ value }) => ({ output: { value: value as Json } }),
});
