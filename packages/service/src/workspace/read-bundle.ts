import { columnType } from '@pindro/contract';
import { isObject, type JsonObject, mistakesOf, PindroError, readSource, sourceOf } from '@pindro/core';
import { z } from 'zod';

/** Maximum number of flows, tables and other things in a bundle, each. */
const MOST = 500;

const need = z.strictObject({ name: z.string(), about: z.string().default('') });
export const bundleShape = z.strictObject({
  format: z.literal('pindro/bundle@1'),
  flow: z.string().describe('Flow concerned'),
  flows: z
    .array(z.looseObject({ name: z.string() }))
    .min(1)
    .max(MOST)
    .describe('That flow, and those it calls'),
  tables: z
    .array(z.strictObject({ name: z.string(), columns: z.record(z.string(), columnType) }))
    .max(MOST)
    .default([]),
  servers: z
    .array(need.extend({ url: z.string(), tools: z.array(z.string()).default([]) }))
    .max(MOST)
    .default([]),
  models: z
    .array(need.extend({ dialect: z.string(), base: z.string(), model: z.string() }))
    .max(MOST)
    .default([]),
  credentials: z
    .array(need.extend({ kind: z.string() }))
    .max(MOST)
    .default([]),
  endpoints: z.array(need).max(MOST).default([]),
});
export type Bundle = z.infer<typeof bundleShape>;

/** Reads a bundle. @throws request_invalid with every mistake */
export function readBundle(written: string | JsonObject): Bundle {
  const source = typeof written === 'string' ? readSource(written) : sourceOf(written);
  const refuse = (mistakes: { at: string; message: string }[]) =>
    new PindroError(
      'request_invalid',
      { why: `This is not a bundle: ${mistakes.map(({ message }) => message).join('; ')}` },
      { at: mistakes[0]!.at, mistakes },
    );
  if (source.mistakes.length > 0) throw refuse(source.mistakes);
  if (!isObject(source.value) || source.value.format !== 'pindro/bundle@1')
    throw refuse([{ at: '/format', message: 'the document does not start with "format: pindro/bundle@1"' }]);
  const parsed = bundleShape.safeParse(source.value);
  if (parsed.success) return parsed.data;
  throw refuse(mistakesOf(parsed.error, source.value).map((mistake) => source.locate(mistake)));
}
