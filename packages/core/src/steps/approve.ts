import { z } from 'zod';
import { orAborted } from '../async/abort.js';
import { PindroError } from '../errors/errors.js';
import { deadlineNow } from '../ports/ports.js';
import { milliseconds } from '../text/duration.js';
import { duration, json } from './document.js';
import { defineKind } from './kind.js';

const config = z.strictObject({
  title: z
    .string()
    .min(1)
    .meta({ title: 'Decision to make', description: 'In one line', examples: ['Send 300 kg up to larch?'] }),
  message: z
    .string()
    .default('')
    .meta({ title: 'What the approver should know', description: 'In a few sentences', form: 'long' }),
  facts: z
    .record(z.string(), json)
    .default({})
    .meta({ title: 'Facts', description: 'Values to decide by, shown as a table' }),
  four_eyes: z.boolean().default(false).meta({
    title: 'Four eyes',
    description: 'Whether the approver must be somebody other than the person on whose behalf the run happens',
  }),
  expires: duration.default('7d').meta({ title: 'Expires after', description: 'Time until the request expires' }),
});

export const approve = defineKind<z.infer<typeof config>>({
  name: 'approve',
  title: 'Ask for approval',
  about: 'Waits until a person approves or rejects. The run survives a restart of Pindro.',
  config,
  resumable: true,
  repeatable: () => true,
  effects: () => ({ waits: true }),
  branches: () => [{ name: 'approved' }, { name: 'refused', aside: true }, { name: 'expired', aside: true }],
  sentence: (raw) => ['Ask a person: ', { value: raw.title ?? '' }, ', within ', { value: raw.expires ?? '7d' }],
  output: () => ({ decision: 'string', by: 'string', note: 'string', at: 'string' }),
  references: () => ({}),
  run: async (config, context) => {
    const { signal, recorder, followed } = context;
    const { ports } = context.run;
    const until = context.parkedUntil ?? (await deadlineNow(ports.clock)) + milliseconds(config.expires);
    await context.services.park({ for: 'person', until, what: `Approval required: ${config.title}` });
    const asked = ports.approvals.ask(
      {
        run: recorder.head.id,
        path: context.path,
        flow: context.run.flow,
        caller: context.run.caller.id,
        title: recorder.masker.text(config.title),
        message: recorder.masker.text(config.message),
        facts: recorder.masker.json(config.facts),
        until,
        ...(config.four_eyes && { fourEyes: true }),
      },
      { signal },
    );
    const { decision, by, note, at } = await orAborted(asked, signal);
    if (decision !== 'approved' && !followed.has(decision))
      throw new PindroError(
        'not_approved',
        {
          what: config.title,
          decision,
          outcome: decision === 'expired' ? `not answered within ${config.expires}` : decision,
          by: by ? ` by ${by}` : '',
          note: note ? `: ${note}` : '',
        },
        { details: { decision, by, note } },
      );
    const decidedAt = new Date(at ?? (await ports.clock.now())).toISOString();
    return { output: { decision, by, note, at: decidedAt }, branch: decision };
  },
});
