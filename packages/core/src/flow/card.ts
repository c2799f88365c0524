import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import { sentenceSchema } from '../steps/sentence.js';

/** A step as its card shows it. */
export const stepCard = z.object({
  name: z.string(),
  kind: z.string(),
  title: z.string(),
  note: z.string(),
  off: z.boolean(),
  under: z.string().describe('Group of the step in the outline'),
  sentence: sentenceSchema.describe('Summary of the step with its values'),
  branches: z.array(z.string()).describe('Branches other than the default one'),
  output: z.record(z.string(), anyJson).describe('Type of steps.NAME'),
  inside: z.array(z.string()).describe('Names of nested steps'),
  tools: z
    .array(z.object({ from: z.string(), use: z.string(), set: z.array(z.string()) }))
    .describe("An agent's toolbox, row by row"),
});
export type StepCard = z.infer<typeof stepCard>;

/** That one step comes after another, or after one of its branches. */
export const stepLink = z.object({ from: z.string(), to: z.string(), branch: z.string().nullable() });
export type StepLink = z.infer<typeof stepLink>;
