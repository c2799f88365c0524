import { z } from 'zod';
import { anyJson } from '../../json/any-json.js';
import type { JsonSchema } from '../../json/json.js';

/** A tool as a model reads it, with its known effects. */
export interface ReviewedTool {
  name: string;
  title?: string | undefined;
  description: string;
  inputSchema: JsonSchema;
  outputSchema?: JsonSchema | null | undefined;
  /** Whether the tool is read-only; null if unknown. */
  readOnly: boolean | null;
  /** Parts that were omitted so that clients accept the list. */
  left?: readonly string[];
  /** Parts of its input that the model receives as text only because of its dialect. */
  told?: { dialect: string; what: readonly string[] };
  /** Whether the flow returns a result; omitted if unknown. */
  hasResult?: boolean;
  /** Whether its result is known to have an end. */
  bounded?: boolean;
}

/** A change of the words a model reads, which can be made without touching the flow or the server. */
export const suggestedFix = z.union([
  z.object({ rename: z.string() }),
  z.object({ description: z.string() }),
  z.object({
    argument: z.string(),
    description: z.string().optional(),
    schema: z.record(z.string(), anyJson).optional(),
  }),
]);
export type Fix = z.infer<typeof suggestedFix>;

/** What is wrong with one tool of a list, why that hurts, and what to write instead. */
export const suggestion = z.object({
  id: z.string().describe('Identifies the suggestion in the same list'),
  code: z.string().describe('Name of the rule'),
  weight: z.enum(['hurts', 'could be better']),
  tool: z.string().nullable().describe('The tool; null for the list as a whole'),
  argument: z.string().nullable(),
  title: z.string(),
  why: z.string(),
  instead: z.string(),
  fix: suggestedFix.nullable().describe('The change that would be applied; null if it needs a decision'),
});
export type Suggestion = z.infer<typeof suggestion>;
export type Found = Omit<Suggestion, 'id' | 'code'>;

/** One rule of the review. A rule is one entry in `rules/` and one line in the registry. */
export interface ReviewRule {
  readonly code: string;
  /** What the rule looks for, for the reference. */
  readonly about: string;
  look(tools: readonly ReviewedTool[]): Found[];
}

/** What a rule finds that looks at one tool after the other. */
export const eachTool =
  (look: (tool: ReviewedTool, all: readonly ReviewedTool[]) => (Omit<Found, 'tool'> | false | undefined)[]) =>
  (tools: readonly ReviewedTool[]): Found[] =>
    tools.flatMap((tool) => look(tool, tools).flatMap((found) => (found ? [{ tool: tool.name, ...found }] : [])));
