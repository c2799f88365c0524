import { z } from 'zod';
import { PindroError } from '../errors/errors.js';
import { json, named } from './document.js';
import { defineKind, fixedName } from './kind.js';

const config = z.strictObject({
  flow: named('flow').meta({ title: 'Flow', description: 'Flow to run' }),
  input: z
    .record(z.string(), json)
    .default({})
    .meta({ title: 'Its input', description: 'Input of the flow', form: 'input' }),
  wait: z.boolean().default(true).meta({
    title: 'Wait for the result',
    description: 'Whether to wait for the result, or to start the flow and continue',
  }),
});

export const flow = defineKind<z.infer<typeof config>>({
  name: 'flow',
  title: 'Call a flow',
  about: 'Runs another flow and waits for its result, or starts it and continues.',
  config,
  resumable: true,
  repeatable: () => false,
  uses: (raw) => [{ flow: String(raw.flow) }],
  branches: () => [],
  sentence: (raw) => [
    raw.wait === false ? 'Start flow ' : 'Run flow ',
    { value: raw.flow ?? '' },
    ...(raw.input ? [' with ', { value: raw.input }] : []),
    raw.wait === false ? ' and continue' : '',
  ],
  output: () => ({ result: 'dyn', run: 'string' }),
  references: (raw) => ({ flows: fixedName(raw.flow) }),
  run: async ({ flow, input, wait }, { services, parentSpan, signal }) => {
    const outcome = await services.startFlow(flow, input, { parentSpan, entry: 'flow', signal, wait });
    if (outcome.state === 'failed' || outcome.state === 'cancelled')
      throw outcome.error ? PindroError.from(outcome.error) : new PindroError('cancelled', { what: `Flow "${flow}"` });
    return { output: { result: outcome.result, run: outcome.run } };
  },
});
