import { z } from 'zod';
import { DURATION } from '../duration.js';
import type { Json, JsonSchema } from '../json.js';
import { KIND_NAMES, stepKinds } from '../steps/registry.js';

export const FLOW_FORMAT = 'pindro/flow@1';
/** Names of flows, endpoints, tool servers, credentials and model connections. */
export const NAME = /^[a-z][a-z0-9]*(?:-[a-z0-9]+)*$/;
export const NAME_RULE = 'must be lower-case letters and digits with single hyphens, beginning with a letter';
export const STEP_NAME = /^[a-z][a-z0-9_]*$/;
export const RESERVED_NAMES = ['error', 'otherwise'];

export const nameSchema = z.string().max(64).regex(NAME, NAME_RULE);
const duration = z.string().regex(DURATION, 'must be a duration such as 10s');
const json = z.json() as z.ZodType<Json>;

export const stepSchema = z.strictObject({
  kind: z.string().describe(`One of ${KIND_NAMES.join(', ')}`),
  title: z.string().optional().describe('What people read on the card'),
  after: z.array(z.string()).optional().describe('Steps it comes after; STEP.BRANCH follows one branch'),
  join: z.enum(['all', 'any']).optional().describe('Whether it waits for all it comes after, or for any'),
  on_error: z
    .enum(['stop', 'continue', 'branch'])
    .optional()
    .describe('What a failure does: stop the run, go on, or follow the branch "error"'),
  timeout: duration.optional().describe('Per attempt'),
  retry: z
    .strictObject({
      times: z.number().int().min(1).max(20).describe('How many more attempts'),
      pause: duration.default('1s').describe('Between attempts'),
      repeat: z.boolean().default(false).describe('Also when the failed attempt may have taken effect'),
    })
    .optional(),
  with: z.record(z.string(), json).optional().describe('What the kind takes'),
});

export const flowSchema = z.strictObject({
  format: z.literal(FLOW_FORMAT),
  name: nameSchema,
  title: z.string().optional(),
  description: z.string().optional().describe('For people and models: what it does and when to use it'),
  input: z
    .record(z.string(), json)
    .optional()
    .describe('JSON Schema (2020-12) of what a caller must supply; an object'),
  steps: z
    .record(
      z.string().regex(STEP_NAME, 'must be lower-case letters, digits and _, beginning with a letter'),
      stepSchema,
    )
    .refine((steps) => Object.keys(steps).length > 0, 'needs at least one step'),
  result: json.optional().describe('What the caller gets'),
});

export type FlowDocument = z.infer<typeof flowSchema>;
export type StepDocument = z.infer<typeof stepSchema>;

/** The input schema of a flow; one that declares none takes nothing. */
export function inputSchema(document: Pick<FlowDocument, 'input'>): JsonSchema {
  return document.input ?? NO_INPUT;
}
const NO_INPUT: JsonSchema = { type: 'object', properties: {}, additionalProperties: false };

/** The JSON Schema (2020-12) of the flow document, in which each kind says what its `with` takes. */
export function flowJsonSchema(): JsonSchema {
  const schema = z.toJSONSchema(flowSchema, { io: 'input', unrepresentable: 'any' }) as unknown as JsonSchema;
  const steps = (schema.properties as Record<string, JsonSchema>).steps!;
  const step = steps.additionalProperties as JsonSchema;
  step.allOf = stepKinds().map((kind) => ({
    if: { properties: { kind: { const: kind.name } } },
    // biome-ignore lint/suspicious/noThenProperty: `then` is a keyword of JSON Schema
    then: {
      properties: {
        with: z.toJSONSchema(kind.config, { io: 'input', unrepresentable: 'any' }) as unknown as JsonSchema,
      },
    },
  }));
  return { ...schema, title: 'Pindro flow' };
}
