import { type JsonObject, publishedSchema } from '@pindro/core';
import { z } from 'zod';
import { bundleShape } from './read-bundle.js';
import { SORTS } from './sorts/registry.js';

/** A whole workspace in one file, as the console saves it: the texts of its files by their paths. */
const filesShape = z.object({ format: z.literal('pindro/files@1'), files: z.record(z.string(), z.string()) });

/** The JSON Schemas (2020-12) of the files of a workspace by the names of their folders, but for those that publish their own. */
export function fileSchemas(): Record<string, object> {
  const shapes = SORTS.flatMap(({ at, shape }) => (shape ? [[at.replace(/\.yaml$/, ''), shape] as const] : []));
  return Object.fromEntries(
    [...shapes, ['bundle', bundleShape] as const, ['files', filesShape] as const].map(([name, shape]) => [
      name,
      publishedSchema({
        ...(z.toJSONSchema(shape, { io: 'input', unrepresentable: 'any' }) as JsonObject),
        title: `Pindro ${name}`,
      }) as object,
    ]),
  );
}
