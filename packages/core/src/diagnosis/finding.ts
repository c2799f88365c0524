import { z } from 'zod';
import { anyJson } from '../json/any-json.js';

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

/** A change that a finding proposes. */
export const proposedFixSchema = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('change'),
    flow: z.string(),
    at: z.string().describe('JSON Pointer into the draft'),
    from: anyJson.nullable().describe('Present value; null if there is none'),
    to: anyJson.describe('New value'),
  }),
  z.object({ do: z.literal('transport'), server: z.string(), from: z.string(), to: z.string() }),
  z.object({ do: z.literal('accept'), server: z.string(), tools: z.array(z.string()) }),
  z.object({ do: z.literal('publish'), flow: z.string() }),
  z.object({
    do: z.literal('form'),
    credential: z.string(),
    from: credentialForm,
    to: credentialForm.describe('How the credential is sent'),
  }),
  z.object({
    do: z.literal('clean'),
    credential: z.string(),
    what: z.string().describe('Describes the extra characters without revealing the secret'),
  }),
  z.object({
    do: z.literal('credential'),
    of: z.enum(['server', 'model']),
    name: z.string(),
    to: z.string().describe('Credential to send'),
  }),
  z.object({ do: z.literal('model'), model: z.string(), from: z.string(), to: z.string() }),
]);
export type ProposedFix = z.infer<typeof proposedFixSchema>;

/** `failure`: it made the run fail. `doubt`: the run is done, and is not what it seems. `warning`: it was dealt with. */
export const SEVERITIES = ['failure', 'doubt', 'warning'] as const;

/** A statement of the diagnosis about one run. */
export const findingSchema = z.object({
  code: z.string().describe('Name of the rule'),
  severity: z.enum(SEVERITIES),
  span: z.string().describe('Span that shows the problem'),
  run: z.string(),
  title: z.string().describe('What failed, in one sentence'),
  why: z.string().describe('Why it happened'),
  fix: z.string().describe('How to fix it'),
  place: placeSchema.nullable().describe('Where to fix it'),
  quotes: z.array(z.string()).default([]).describe('Quotes from the other side as evidence'),
  cure: proposedFixSchema.nullable().default(null).describe('Fix that can be applied automatically'),
  fingerprint: z.string().default('').describe('Identical in every run with the same problem'),
  times: z.number().default(1).describe('Occurrences in the run'),
  follows: z
    .array(z.object({ code: z.string(), title: z.string(), span: z.string() }))
    .default([])
    .describe('Follow-up failures with this cause'),
});
export type Finding = z.infer<typeof findingSchema>;
