import { z } from 'zod';
import { anyJson } from '../any-json.js';

/** Where something is changed: in a flow, by a JSON Pointer, or a thing by its name. */
export const placeSchema = z.union([
  z.object({ flow: z.string(), at: z.string() }),
  z.object({ server: z.string() }),
  z.object({ model: z.string() }),
  z.object({ endpoint: z.string() }),
  z.object({ credential: z.string() }),
  z.object({ table: z.string() }),
]);
export type Place = z.infer<typeof placeSchema>;

const credentialForm = z.object({ kind: z.string(), header: z.string().nullable() });

/** A change that can be made for whoever looks at a finding. */
export const cureSchema = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('change'),
    flow: z.string(),
    at: z.string().describe('JSON Pointer into the draft'),
    from: anyJson.nullable().describe('What stands there; null where nothing does'),
    to: anyJson.describe('What is to stand there'),
  }),
  z.object({ do: z.literal('transport'), server: z.string(), from: z.string(), to: z.string() }),
  z.object({ do: z.literal('accept'), server: z.string(), tools: z.array(z.string()) }),
  z.object({ do: z.literal('publish'), flow: z.string() }),
  z.object({
    do: z.literal('form'),
    credential: z.string(),
    from: credentialForm,
    to: credentialForm.describe('How it is to go along'),
  }),
  z.object({
    do: z.literal('clean'),
    credential: z.string(),
    what: z.string().describe('What does not belong to the secret, without a character of it'),
  }),
  z.object({
    do: z.literal('credential'),
    of: z.enum(['server', 'model']),
    name: z.string(),
    to: z.string().describe('The credential that is to go along'),
  }),
  z.object({ do: z.literal('model'), model: z.string(), from: z.string(), to: z.string() }),
]);
export type Cure = z.infer<typeof cureSchema>;

/** `failure`: it made the run fail. `doubt`: the run is done, and is not what it seems. `warning`: it was dealt with. */
export const SEVERITIES = ['failure', 'doubt', 'warning'] as const;

/** What a diagnosis says about one run. */
export const findingSchema = z.object({
  code: z.string().describe('Name of the rule'),
  severity: z.enum(SEVERITIES),
  span: z.string().describe('The span that shows it'),
  run: z.string(),
  title: z.string().describe('What went wrong, in one sentence'),
  why: z.string().describe('Why it happened, in plain words'),
  fix: z.string().describe('What to change'),
  place: placeSchema.nullable().describe('Where to change it'),
  quotes: z.array(z.string()).default([]).describe('Words of the other side that show it'),
  cure: cureSchema.nullable().default(null).describe('The change, where it can be made for you'),
  fingerprint: z.string().default('').describe('The same in every run with the same trouble'),
  times: z.number().default(1).describe('How often it happened in the run'),
  follows: z
    .array(z.object({ code: z.string(), title: z.string(), span: z.string() }))
    .default([])
    .describe('What only happened because of it'),
});
export type Finding = z.infer<typeof findingSchema>;
