import { z } from 'zod';

/** Text as a program takes it. */
const plain = z.string().regex(/^[^\0]*$/, 'must not contain a NUL character');

/** A value that a program is given: a plain one, or what a credential holds. */
export const programValue = z.union([
  plain.max(8000),
  z.strictObject({
    credential: z.string().describe('Credential that supplies the value when the program starts'),
    before: plain.max(200).optional().describe('Prefix of the value, such as --token='),
  }),
]);

/** A program on this machine that serves tools through its standard input and output. */
export const program = z.strictObject({
  command: plain.min(1).max(1000).describe('Command: a program on the path, or its file'),
  args: z.array(programValue).max(200).default([]),
  env: z
    .record(z.string().regex(/^[A-Za-z_]\w*$/, 'must be the name of an environment variable'), programValue)
    .default({})
    .describe('Environment in addition to path, home and language'),
  cwd: plain.max(4000).optional().describe('Working directory'),
});

/** A file that starting a program executes, with the SHA-256 of its content in hexadecimal. */
export const programFile = z.strictObject({
  path: z.string().max(4000),
  sha256: z.string().regex(/^[0-9a-f]{64}$/, 'must be a SHA-256 in hexadecimal'),
});
/** Fingerprint of a program for review; a permission covers exactly this. */
export const programFingerprint = program.extend({
  files: z.array(programFile).max(20).describe('The executable and the scripts among its arguments'),
});
export type ProgramFile = z.infer<typeof programFile>;
export type ProgramFingerprint = z.infer<typeof programFingerprint>;
export type ProgramValue = z.infer<typeof programValue>;
export type Program = z.infer<typeof program>;
