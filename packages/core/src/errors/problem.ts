import { z } from 'zod';

/** One located mistake of a document. Lines and columns count from 1. */
export const mistakeSchema = z.object({
  at: z.string().describe('JSON Pointer (RFC 6901) into the document'),
  line: z.number().optional(),
  column: z.number().optional(),
  message: z.string(),
  hint: z.string().optional(),
  missing: z.literal(true).optional().describe('Not configured yet, but otherwise valid'),
});
export type Mistake = z.infer<typeof mistakeSchema>;

/**
 * Problem details (RFC 9457) with Pindro's own members `code`, `hint`, `at`, `mistakes` and `run`. `title` is
 * fixed for each type, and `detail` describes the occurrence.
 */
export const problemSchema = z.object({
  type: z.string(),
  title: z.string().describe('Same for every occurrence of the type'),
  status: z.number(),
  detail: z.string().describe('Details of this occurrence'),
  code: z.string(),
  hint: z.string(),
  at: z.string().optional(),
  mistakes: z.array(mistakeSchema).optional(),
  run: z.string().optional(),
});
export type Problem = z.infer<typeof problemSchema>;
