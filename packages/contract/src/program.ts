import { z } from 'zod';

/** A value that a program is given: a plain one, or what a credential holds. */
export const programValue = z.union([
  z.string().max(8000),
  z.strictObject({
    credential: z.string().describe('The credential that supplies it when the program is started'),
    before: z.string().max(200).optional().describe('What stands in front of it, such as --token='),
  }),
]);

/** A program of this machine that is a tool server: it speaks through its standard input and output. */
export const program = z.strictObject({
  command: z.string().min(1).max(1000).describe('What is run: a program on the path, or its file'),
  args: z.array(programValue).max(200).default([]),
  env: z
    .record(z.string().regex(/^[A-Za-z_]\w*$/, 'must be the name of an environment variable'), programValue)
    .default({})
    .describe('What it finds in its environment besides the path, the home and the language'),
  cwd: z.string().max(4000).optional().describe('The folder it works in'),
});
export type ProgramValue = z.infer<typeof programValue>;
export type Program = z.infer<typeof program>;
