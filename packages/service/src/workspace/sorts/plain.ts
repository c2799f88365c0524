import { PLAIN, type PlainDescriptor } from '@pindro/contract';
import type { JsonObject } from '@pindro/core';
import { z } from 'zod';
import { type Documents, defineSort, type Sort, type WorkspaceParts } from './sort.js';

/** Who imported it, where a file does not tell. */
const IMPORTER = 'import';

/** The file of a plain resource: all of its values, by name. */
function plainSort({ name, plural, fields }: PlainDescriptor, at: string): Sort {
  const format = `pindro/${plural}@1`;
  const shape = z.strictObject({
    format: z.literal(format),
    [plural]: z.array(z.strictObject({ name: z.string(), ...fields.shape })),
  });
  const storeOf = ({ resources }: WorkspaceParts) => {
    const store = resources.find(name)?.plain;
    if (!store) throw new Error(`No capability serves the resource "${name}"`);
    return store;
  };
  return defineSort<Record<string, unknown>>({
    at,
    adds: true,
    shape,
    write: (parts): Documents => {
      const all = storeOf(parts)
        .list()
        .map(({ by: _, at: __, ...saved }) => saved);
      return all.length === 0 ? {} : { [at]: { format, [plural]: all as JsonObject[] } };
    },
    keep: (value, parts, overwrite) => {
      const store = storeOf(parts);
      const here = new Set(store.list().map((one) => one.name));
      const wanted = (value[plural] as JsonObject[]).filter((one) => overwrite || !here.has(String(one.name)));
      for (const { name: given, ...saved } of wanted) store.save(String(given), saved, IMPORTER);
      return wanted.length > 0;
    },
  });
}

export const plainSorts: readonly Sort[] = PLAIN.flatMap((one) => (one.files ?? []).map((at) => plainSort(one, at)));
