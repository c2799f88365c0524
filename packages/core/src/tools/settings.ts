import { z } from 'zod';
import { DURATION } from '../duration.js';
import { size } from '../size-schema.js';
import { GRANT_WORDS, GRANTS } from '../trace/grants.js';
import { argumentRules } from './rules.js';

const duration = z.string().regex(DURATION, 'must be a duration such as 20s');

/** What of a large result is handed on. */
export const trimming = z.strictObject({
  fields: z
    .array(z.string())
    .min(1)
    .optional()
    .meta({ title: 'Fields', description: 'Only these of each object; a dot leads further in, as in hut.name' }),
  rows: z
    .number()
    .int()
    .min(1)
    .max(10_000)
    .optional()
    .meta({ title: 'Rows', description: 'At most so many of each list' }),
  size: size.optional().meta({ title: 'Size', description: 'At most so much text, such as 8 KiB' }),
});

/** How often somebody is asked before a tool is called: never, each time, once a conversation, once a caller. */
export const APPROVALS = ['none', 'every', 'conversation', 'caller'] as const;
const APPROVAL_WORDS = {
  none: 'nobody is asked',
  every: 'before every call',
  conversation: 'once in a conversation',
  caller: 'once for each caller',
};
/** Who may answer: whoever answers approvals, or the one on whose behalf it happens. */
export const ANSWERERS = ['people', 'caller'] as const;
export const approvalRule = z.strictObject({
  ask: z.enum(APPROVALS).default('every').meta({ title: 'How often', words: APPROVAL_WORDS }),
  if: z.string().min(1).optional().meta({
    title: 'Only if',
    description: 'A condition on the arguments, such as args.weight_kg > 200',
  }),
  by: z
    .enum(ANSWERERS)
    .default('people')
    .meta({
      title: 'Who answers',
      words: { people: 'whoever answers approvals', caller: 'the one who talks to the agent' },
    }),
  within: duration.default('1d').meta({
    title: 'Asked for',
    description: 'Time until the request expires',
    form: 'duration',
  }),
  may_grant: z.enum(GRANTS).optional().meta({
    title: 'Widest approval',
    description: 'What the approver may extend one approval to; what "ask" says if left out',
    words: GRANT_WORDS,
  }),
  holds: duration.default('30d').meta({
    title: 'Longest approval',
    description: 'When an approval for a conversation or a caller expires at the latest',
    form: 'duration',
  }),
  four_eyes: z.boolean().default(false).meta({
    title: 'Four eyes',
    description: 'Whether the approver must be somebody else than the one on whose behalf it happens',
  }),
});
export type ApprovalRule = z.infer<typeof approvalRule>;

/** How one tool is tamed for whoever uses it: a part a wrapper, a wrapper a file in `wrap/`. */
export const toolSettings = z.strictObject({
  name: z
    .string()
    .regex(/^[a-z][a-z0-9_]{0,63}$/, 'must be lower-case letters, digits and _, beginning with a letter')
    .optional()
    .meta({ title: 'Name', description: 'What the model calls it; its own name if left out' }),
  when: z.string().optional().meta({
    title: 'When to use it',
    description: 'When the model should use the tool; put in front of its own description',
    form: 'long',
  }),
  description: z
    .string()
    .optional()
    .meta({ title: 'What the model reads', description: 'Replaces the description of the tool', form: 'long' }),
  arguments: argumentRules
    .optional()
    .meta({ title: 'Arguments', description: 'Who supplies each argument', form: 'rules' }),
  treat: z.string().optional().meta({
    title: 'How to treat the result',
    description: 'A note that the model reads with every result',
    form: 'long',
  }),
  result: trimming.optional().meta({ title: 'Of a large result', description: 'What is handed on to the model' }),
  approval: z
    .union([
      z.enum(APPROVALS).meta({ title: 'how often', words: APPROVAL_WORDS }),
      approvalRule.meta({ title: 'how often, when and by whom' }),
    ])
    .optional()
    .meta({ title: 'Asked before', description: 'Whether somebody is asked before it is called' }),
  calls: z.number().int().min(1).max(1000).optional().meta({
    title: 'At most',
    description: 'How often it may be called in answering one message',
    unit: 'calls',
  }),
  keep: z
    .record(
      z.string().regex(/^[a-z][a-z0-9_]{0,39}$/, 'must be lower-case letters, digits and _, beginning with a letter'),
      z.string().min(1),
    )
    .optional()
    .meta({
      title: 'Kept of its results',
      description:
        'A name, and what is kept under it for the rest of the conversation, such as result.hut; rules and instructions read it as kept.NAME',
    }),
  needs: z.array(z.string()).min(1).optional().meta({
    title: 'Only after',
    description: 'Tools that must have succeeded in the conversation before',
  }),
  cost: z
    .union([z.number().min(0), z.string()])
    .optional()
    .meta({
      title: 'What a call costs',
      description: 'A price, or the field of the result that says it',
    }),
  limit: duration.optional().meta({ title: 'Time', description: 'How long a call may take', form: 'duration' }),
  line: z.string().max(200).optional().meta({
    title: 'While it works',
    description: 'What people read meanwhile, such as "asking the lift company"',
  }),
  cache: duration.optional().meta({
    title: 'Answers kept for',
    description: 'The same call is answered as before for so long; only of tools that only read',
    form: 'duration',
  }),
});
export type ToolSettings = z.infer<typeof toolSettings>;
