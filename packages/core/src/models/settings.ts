import { z } from 'zod';
import { anyJson } from '../any-json.js';
import { DURATION, milliseconds } from '../duration.js';
import { isObject, type Json, type JsonObject } from '../json.js';

/** Whoever asks has gone by then, in milliseconds. */
const MOST_PATIENCE = 10 * 60_000;
/** What is set here is shown to everybody: a key belongs into a credential. */
const SECRET = /^(?:authorization|proxy-authorization|cookie|(?:[a-z-]+-)?api-key)$/i;
const headerName = z
  .string()
  .regex(/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/, 'must be the name of a header')
  .refine((name) => !SECRET.test(name), 'holds a key, which belongs into a credential');

const price = (what: string) => z.number().min(0).optional().meta({ title: what, description: 'For a million tokens' });

/** What is set for a model connection, whichever dialect it speaks; a dialect writes each part as its format has it. */
export const modelSettings = z.strictObject({
  temperature: z.number().min(0).max(2).optional().meta({
    title: 'Temperature',
    description: 'How much answers vary, from 0 (hardly) to 2; the model’s own if left out',
  }),
  max_tokens: z
    .number()
    .int()
    .min(1)
    .max(1_000_000)
    .optional()
    .meta({ title: 'Longest answer', description: 'In tokens; longer answers are cut off', unit: 'tokens' }),
  effort: z
    .enum(['low', 'medium', 'high'])
    .optional()
    .meta({ title: 'Effort', description: 'How long it thinks before it answers, where the model can' }),
  stop: z
    .array(z.string().min(1))
    .max(8)
    .optional()
    .meta({ title: 'Stop words', description: 'An answer ends before any of these' }),
  stream: z
    .boolean()
    .optional()
    .meta({ title: 'Word by word', description: 'Whether answers come as they are written; they do if left out' }),
  context: z
    .number()
    .int()
    .min(256)
    .max(100_000_000)
    .optional()
    .meta({ title: 'Context', description: 'How much it can read and write at once', unit: 'tokens' }),
  price: z
    .strictObject({ input: price('Reading'), output: price('Writing'), cached: price('Reading what is cached') })
    .optional()
    .meta({ title: 'Price', description: 'What a million tokens cost' }),
  patience: z
    .string()
    .regex(DURATION, 'must be a duration such as 20s')
    .refine((text) => milliseconds(text) <= MOST_PATIENCE, 'must be at most 10m')
    .optional()
    .meta({
      title: 'Patience',
      description: 'How long it is asked again where it says that it is busy; 20s if left out',
      form: 'duration',
    }),
  headers: z
    .record(headerName, z.string().regex(/^[\x20-\x7e\x80-\xff]*$/, 'must be one line of plain characters'))
    .optional()
    .meta({ title: 'Headers', description: 'What goes along with each question beside the key; no secrets' }),
  body: z
    .record(z.string(), anyJson)
    .optional()
    .meta({ title: 'Further fields', description: 'Added to the body of each question as they stand' }),
});
export type ModelSettings = z.infer<typeof modelSettings>;

const KNOWN = new Set(Object.keys(modelSettings.shape));
const PATIENCE = '20s';

/** Settings from before they had names of their own: what is not known was a field of the body. */
export function settingsOf(kept: JsonObject): ModelSettings {
  const own: JsonObject = {};
  const body: JsonObject = isObject(kept.body) ? { ...kept.body } : {};
  for (const [name, value] of Object.entries(kept)) {
    if (name === 'body') continue;
    if (KNOWN.has(name)) own[name] = value;
    else body[name] = value;
  }
  const whole = { ...own, ...(Object.keys(body).length > 0 && { body }) };
  const parsed = modelSettings.safeParse(whole);
  // What was kept under such a name as the body has it goes there as it stands.
  return parsed.success ? parsed.data : { body: { ...own, ...body } as { [name: string]: Json } };
}

export const patienceOf = ({ patience = PATIENCE }: ModelSettings): number => milliseconds(patience);

/** What so many tokens cost. Null where no price was said. */
export function priceOf(
  { price }: ModelSettings,
  usage: { input: number; output: number; cached: number },
): number | null {
  if (!price) return null;
  const { input = 0, output = 0, cached = input } = price;
  return ((usage.input - usage.cached) * input + usage.cached * cached + usage.output * output) / 1_000_000;
}
