import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import { isObject, type Json, type JsonObject } from '../json/json.js';
import { DURATION, milliseconds } from '../text/duration.js';

/** Whoever asks has gone by then, in milliseconds. */
const MOST_PATIENCE = 10 * 60_000;
/** What is set here is shown to everybody: a key belongs into a credential. */
const SECRET = /^(?:authorization|proxy-authorization|cookie|(?:[a-z-]+-)?api-key)$/i;
const headerName = z
  .string()
  .regex(/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/, 'must be the name of a header')
  .refine((name) => !SECRET.test(name), 'contains a key; add it as a credential instead');

const price = (what: string) => z.number().min(0).optional().meta({ title: what, description: 'Per million tokens' });

/** Settings of a model connection for any dialect. Each dialect writes them in its own format. */
export const modelSettings = z.strictObject({
  temperature: z.number().min(0).max(2).optional().meta({
    title: 'Temperature',
    description: 'Randomness of answers, from 0 to 2; the model’s default if empty',
  }),
  max_tokens: z
    .number()
    .int()
    .min(1)
    .max(1_000_000)
    .optional()
    .meta({ title: 'Maximum answer length', description: 'In tokens; longer answers are truncated', unit: 'tokens' }),
  effort: z
    .enum(['low', 'medium', 'high'])
    .optional()
    .meta({ title: 'Reasoning effort', description: 'How much the model reasons before it answers, if supported' }),
  stop: z
    .array(z.string().min(1))
    .max(8)
    .optional()
    .meta({ title: 'Stop sequences', description: 'An answer ends before any of these' }),
  stream: z
    .boolean()
    .optional()
    .meta({ title: 'Streaming', description: 'Whether answers arrive while they are generated; on by default' }),
  context: z
    .number()
    .int()
    .min(256)
    .max(100_000_000)
    .optional()
    .meta({ title: 'Context window', description: 'Maximum input and output tokens together', unit: 'tokens' }),
  price: z
    .strictObject({ input: price('Input'), output: price('Output'), cached: price('Cached input') })
    .optional()
    .meta({ title: 'Price', description: 'Price per million tokens' }),
  patience: z
    .string()
    .regex(DURATION, 'must be a duration such as 20s')
    .refine((text) => milliseconds(text) <= MOST_PATIENCE, 'must be at most 10m')
    .optional()
    .meta({
      title: 'Retry for',
      description: 'How long to retry a busy model; 20s by default',
      form: 'duration',
    }),
  headers: z
    .record(headerName, z.string().regex(/^[\x20-\x7e\x80-\xff]*$/, 'must be one line of plain characters'))
    .optional()
    .meta({ title: 'Headers', description: 'Sent with each request in addition to the key; no secrets' }),
  body: z
    .record(z.string(), anyJson)
    .optional()
    .meta({ title: 'Additional fields', description: 'Added to the body of each request unchanged' }),
});
export type ModelSettings = z.infer<typeof modelSettings>;

const KNOWN = new Set(Object.keys(modelSettings.shape));
const PATIENCE = '20s';

/**
 * Converts settings of earlier versions: unknown fields were fields of the request body.
 * @param kept settings as stored
 * @returns settings in today's form
 */
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
  // A stored body field is sent unchanged.
  return parsed.success ? parsed.data : { body: { ...own, ...body } as { [name: string]: Json } };
}

export const patienceOf = ({ patience = PATIENCE }: ModelSettings): number => milliseconds(patience);

/**
 * Returns the price of tokens. Null without a price.
 * @param settings of the model connection
 * @param usage numbers of tokens; prices are per million
 * @returns the cost in the currency of the prices
 */
export function priceOf(
  { price }: ModelSettings,
  usage: { input: number; output: number; cached: number },
): number | null {
  if (!price) return null;
  const { input = 0, output = 0, cached = input } = price;
  return ((usage.input - usage.cached) * input + usage.cached * cached + usage.output * output) / 1_000_000;
}
