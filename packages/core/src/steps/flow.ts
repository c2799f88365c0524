import { z } from 'zod';
import { PindroError } from '../errors.js';
import type { Json } from '../json.js';
import { defineKind, fixedName } from './kind.js';

const config = z.strictObject({
  flow: z.string().describe('Which flow'),
  input: z
    .record(z.string(), z.json() as z.ZodType<Json>)
    .default({})
    .describe('What it is given'),
});

export const flow = defineKind<z.infer<typeof config>>({
  name: 'flow',
  title: 'Call a flow',
  about: 'Runs another flow and waits for its result.',
  config,
  repeatable: () => false,
  branches: () => [],
  sentence: (raw) => ['Run flow ', { value: raw.flow ?? '' }, ...(raw.input ? [' with ', { value: raw.input }] : [])],
  output: () => ({ result: 'dyn', run: 'string' }),
  references: (raw) => ({ flows: fixedName(raw.flow) }),
  run: async ({ flow, input }, { startFlow, parentSpan, signal }) => {
    const outcome = await startFlow(flow, input, { parentSpan, entry: 'flow', signal });
    if (outcome.state !== 'done')
      throw outcome.error ? PindroError.from(outcome.error) : new PindroError('cancelled', { what: `Flow "${flow}"` });
    return { output: { result: outcome.result, run: outcome.run } };
  },
});
