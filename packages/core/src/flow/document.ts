import { z } from 'zod';
import type { JsonSchema } from '../json/json.js';
import { json, STEP_NAME, STEP_NAME_RULE, stepSchema, stepsSchema } from '../steps/document.js';

export const FLOW_FORMAT = 'pindro/flow@1';
/** Names of flows, endpoints, tool servers, credentials and model connections. */
export const NAME = /^[a-z][a-z0-9]*(?:-[a-z0-9]+)*$/;
export const NAME_RULE = 'must be lower-case letters and digits with single hyphens, beginning with a letter';
export const nameSchema = z.string().max(64).regex(NAME, NAME_RULE);

export const flowSchema = z.strictObject({
  format: z.literal(FLOW_FORMAT),
  name: nameSchema,
  title: z.string().optional(),
  description: z.string().optional().describe('For people and models: what it does and when to use it'),
  input: z.record(z.string(), json).optional().describe('JSON Schema (2020-12) of the input; an object'),
  labels: z.array(z.string().min(1).max(40)).max(12).optional().describe('Labels that group flows'),
  steps: stepsSchema,
  result: json.optional().describe('Result for the caller'),
});

/** A flow while it is drawn: it may have no steps; the check reports its mistakes. */
export const draftSchema = flowSchema.extend({
  steps: z.record(z.string().regex(STEP_NAME, STEP_NAME_RULE), stepSchema),
});

export type FlowDocument = z.infer<typeof flowSchema>;

/**
 * Returns the input schema of a flow. A flow without one takes no input.
 * @param document of the flow
 * @returns a JSON Schema of type object
 */
export function inputSchema(document: Pick<FlowDocument, 'input'>): JsonSchema {
  return document.input ?? NO_INPUT;
}
const NO_INPUT: JsonSchema = { type: 'object', properties: {}, additionalProperties: false };
