import { z } from 'zod';
import { isObject, type Json } from '../json/json.js';
import { json } from './document.js';
import { defineKind } from './kind.js';

const config = z.strictObject({
  value: json.meta({ title: 'Value', description: 'The result, with expressions for values' }),
});

export const shape = defineKind<z.infer<typeof config>>({
  name: 'shape',
  title: 'Shape',
  about: 'Creates a value from existing data with expressions.',
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
