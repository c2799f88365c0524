import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import { DURATION } from '../text/duration.js';

export const STEP_NAME = /^[a-z][a-z0-9_]*$/;
export const STEP_NAME_RULE = 'must be lower-case letters, digits and _, beginning with a letter';
export const RESERVED_NAMES = ['error', 'otherwise'];

/** A number and its unit. The console's forms go by `form` where the schema alone does not say how a field is filled in. */
export const duration = z.string().regex(DURATION, 'must be a duration such as 10s').meta({ form: 'duration' });
/** The name of something of the workspace. */
export const named = (form: 'flow' | 'table' | 'server' | 'model' | 'credential' | 'endpoint') =>
  z.string().meta({ form });
export const json = anyJson;

/** Properties of every step, of any kind. */
export const stepSchema = z.strictObject({
  kind: z.string().describe('Kind of the step'),
  title: z.string().optional().meta({ title: 'Title', description: 'Shown in the editor' }),
  note: z.string().optional().meta({ title: 'Note', description: 'A note for readers of the flow', form: 'long' }),
  under: z.string().min(1).max(80).optional().describe('Group in the outline of the flow'),
  place: z
    .tuple([z.number().int().min(-1e6).max(1e6), z.number().int().min(-1e6).max(1e6)])
    .optional()
    .describe('Position of the node, x and y; automatic by default'),
  after: z.array(z.string()).optional().describe('Steps that must finish first; STEP.BRANCH follows one branch'),
  join: z.enum(['all', 'any']).optional().describe('Join mode: wait for all incoming links, or for any one'),
  off: z.boolean().optional().describe('Skipped when the flow runs; the next steps run'),
  on_error: z
    .enum(['stop', 'continue', 'branch'])
    .optional()
    .describe('On failure: stop the run, continue, or follow the branch "error"'),
  timeout: duration.optional().meta({ title: 'Timeout', description: 'Per attempt' }),
  retry: z
    .strictObject({
      times: z.number().int().min(1).max(20).describe('Retries after the first attempt'),
      pause: duration.default('1s').describe('Between attempts'),
      repeat: z.boolean().default(false).describe('Also when the failed attempt may have taken effect'),
    })
    .optional()
    .describe('How often to retry, and after which delay'),
  with: z.record(z.string(), json).optional().describe('Settings of the kind'),
});

export type StepDocument = z.infer<typeof stepSchema>;

/** Steps by name, in a flow or inside of a step. */
export const stepsSchema = z
  .record(z.string().regex(STEP_NAME, STEP_NAME_RULE), stepSchema)
  .refine((steps) => Object.keys(steps).length > 0, 'needs at least one step');
