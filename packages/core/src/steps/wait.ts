import { z } from 'zod';
import { orAborted } from '../async/abort.js';
import { PindroError } from '../errors/errors.js';
import { deadlineNow } from '../ports/ports.js';
import { milliseconds } from '../text/duration.js';
import { duration } from './document.js';
import { defineKind, type StepContext } from './kind.js';

/** Callers are kept waiting for this long, in milliseconds; longer waits are reported immediately. */
const TOLD_AFTER = 20_000;
/** The clock may be changed, or the machine may sleep: check again after this many milliseconds. */
const LOOK_EVERY = 60_000;

const config = z
  .strictObject({
    for: duration.optional().meta({ title: 'Duration', description: 'How long, for example 10m' }),
    until: z
      .string()
      .optional()
      .meta({
        title: 'Until',
        description: 'A date-time such as 2027-02-14T06:00:00Z, or a day',
        examples: ['2027-02-14T06:00:00Z'],
      }),
  })
  .refine((given) => (given.for === undefined) !== (given.until === undefined), 'takes either "for" or "until"');

export const wait = defineKind<z.infer<typeof config>>({
  name: 'wait',
  title: 'Wait',
  about: 'Waits for a duration or until a time. The run survives a restart of Pindro.',
  config,
  resumable: true,
  repeatable: () => true,
  effects: () => ({ waits: true }),
  branches: () => [],
  sentence: (raw) =>
    raw.until === undefined ? ['Wait for ', { value: raw.for ?? '' }] : ['Wait until ', { value: raw.until }],
  output: () => ({ until: 'string' }),
  references: () => ({}),
  run: async (config, context) => {
    // A change of the clock does not affect a duration, but a date-time.
    const clock = () => (config.for ? deadlineNow(context.run.ports.clock) : context.run.ports.clock.now());
    const now = await clock();
    const until = context.parkedUntil ?? (config.for ? now + milliseconds(config.for) : readMoment(config.until!));
    if (until - now > TOLD_AFTER)
      await context.services.park({
        for: 'time',
        until,
        what: `The run continues at ${new Date(until).toISOString()}`,
      });
    await sleepUntil(until, clock, context);
    return { output: { until: new Date(until).toISOString() } };
  },
});

/** The clock is asked again after each part: a machine that slept must not wait twice. */
async function sleepUntil(until: number, clock: () => Promise<number>, { signal }: StepContext): Promise<void> {
  for (;;) {
    const left = until - (await clock());
    if (left <= 0) return;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const sleep = new Promise<void>((resolve) => {
      timer = setTimeout(resolve, Math.min(left, LOOK_EVERY));
    });
    await orAborted(sleep, signal).finally(() => clearTimeout(timer));
  }
}

function readMoment(text: string): number {
  const moment = Date.parse(text);
  if (Number.isNaN(moment))
    throw new PindroError(
      'config_refused',
      { why: `"${text}" is not a date-time such as 2027-02-14T06:00:00Z`, kind: 'wait' },
      { at: '/until' },
    );
  return moment;
}
