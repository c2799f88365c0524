import { z } from 'zod';
import { size } from '../json/size-schema.js';
import { DURATION } from '../text/duration.js';
import { GRANT_WORDS, GRANTS } from '../trace/receipts/grants.js';
import { argumentRules } from './rules.js';

const duration = z.string().regex(DURATION, 'must be a duration such as 20s');

/** What of a large result is forwarded. */
export const trimming = z.strictObject({
  fields: z.array(z.string()).min(1).optional().meta({
    title: 'Fields',
    description: 'Keeps only these fields of each object; use a dot for nested fields, as in hut.name',
  }),
  rows: z
    .number()
    .int()
    .min(1)
    .max(10_000)
    .optional()
    .meta({ title: 'Rows', description: 'Maximum number of items of each list' }),
  size: size.optional().meta({ title: 'Size', description: 'Maximum size of the text, such as 8 KiB' }),
});

/** How often somebody is asked before a tool is called: never, each time, once a conversation, once a caller. */
export const APPROVALS = ['none', 'every', 'conversation', 'caller'] as const;
const APPROVAL_WORDS = {
  none: 'never',
  every: 'before every call',
  conversation: 'once per conversation',
  caller: 'once per caller',
};
/** Who may answer: whoever answers approvals, or the one on whose behalf it happens. */
export const ANSWERERS = ['people', 'caller'] as const;
export const approvalRule = z.strictObject({
  ask: z.enum(APPROVALS).default('every').meta({ title: 'Frequency', words: APPROVAL_WORDS }),
  if: z.string().min(1).optional().meta({
    title: 'Only if',
    description: 'Condition on the arguments, such as args.weight_kg > 200',
  }),
  by: z
    .enum(ANSWERERS)
    .default('people')
    .meta({
      title: 'Approver',
      words: { people: 'anyone who may approve', caller: 'the user of the agent' },
    }),
  within: duration.default('1d').meta({
    title: 'Expires after',
    description: 'Time until the request expires',
    form: 'duration',
  }),
  may_grant: z.enum(GRANTS).optional().meta({
    title: 'Widest scope',
    description: 'The widest scope that an approver may grant; by default the scope of "ask"',
    words: GRANT_WORDS,
  }),
  holds: duration.default('30d').meta({
    title: 'Longest validity',
    description: 'Maximum validity of an approval for a conversation or a caller',
    form: 'duration',
  }),
  four_eyes: z.boolean().default(false).meta({
    title: 'Four eyes',
    description: 'Whether the approver must be somebody other than the person on whose behalf it happens',
  }),
});
export type ApprovalRule = z.infer<typeof approvalRule>;

/** How one tool is tamed for whoever uses it: a part a wrapper, a wrapper a file in `wrap/`. */
export const toolSettings = z.strictObject({
  name: z
    .string()
    .regex(/^[a-z][a-z0-9_]{0,63}$/, 'must be lower-case letters, digits and _, beginning with a letter')
    .optional()
    .meta({ title: 'Name', description: "Name for the model; the tool's own name by default" }),
  when: z.string().optional().meta({
    title: 'When to use',
    description: 'When the model should use the tool; precedes its description',
    form: 'long',
  }),
  description: z
    .string()
    .optional()
    .meta({ title: 'Description', description: 'Replaces the description of the tool', form: 'long' }),
  arguments: argumentRules.optional().meta({ title: 'Arguments', description: 'Supplied by', form: 'rules' }),
  treat: z.string().optional().meta({
    title: 'Guidance for results',
    description: 'A note that the model receives with every result',
    form: 'long',
  }),
  result: trimming.optional().meta({ title: 'Result limits', description: 'What to forward of a large result' }),
  approval: z
    .union([
      z.enum(APPROVALS).meta({ title: 'frequency', words: APPROVAL_WORDS }),
      approvalRule.meta({ title: 'frequency, condition and approver' }),
    ])
    .optional()
    .meta({ title: 'Requires approval', description: 'Whether a call requires approval' }),
  calls: z.number().int().min(1).max(1000).optional().meta({
    title: 'Maximum calls',
    description: 'Maximum number of calls while answering one message',
    unit: 'calls',
  }),
  keep: z
    .record(
      z.string().regex(/^[a-z][a-z0-9_]{0,39}$/, 'must be lower-case letters, digits and _, beginning with a letter'),
      z.string().min(1),
    )
    .optional()
    .meta({
      title: 'Stored values',
      description:
        'A name, and the value to store under it for the rest of the conversation, such as result.hut; available to rules and instructions as kept.NAME',
    }),
  needs: z.array(z.string()).min(1).optional().meta({
    title: 'Required tools',
    description: 'Tools that must have succeeded earlier in the conversation',
  }),
  cost: z
    .union([z.number().min(0), z.string()])
    .optional()
    .meta({
      title: 'Cost per call',
      description: 'A price, or the field of the result that contains it',
    }),
  limit: duration.optional().meta({ title: 'Time', description: 'Timeout of a call', form: 'duration' }),
  line: z.string().max(200).optional().meta({
    title: 'Progress text',
    description: 'Shown while the tool runs, such as "asking the lift company"',
  }),
  cache: duration.optional().meta({
    title: 'Cache results for',
    description: 'Answers the same call from the cache for this long; read-only tools only',
    form: 'duration',
  }),
});
export type ToolSettings = z.infer<typeof toolSettings>;
