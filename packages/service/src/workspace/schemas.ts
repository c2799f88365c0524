import { z } from 'zod';
import { bundleShape } from './bundles.js';
import { SORTS } from './sorts/registry.js';

/** The JSON Schemas (2020-12) of the files of a workspace by the names of their folders, but for those that publish their own. */
export function fileSchemas(): Record<string, object> {
  const shapes = SORTS.flatMap(({ at, shape }) => (shape ? [[at.replace(/\.yaml$/, ''), shape] as const] : []));
  return Object.fromEntries(
    [...shapes, ['bundle', bundleShape] as const].map(([name, shape]) => [
      name,
      { ...z.toJSONSchema(shape, { io: 'input', unrepresentable: 'any' }), title: `Pindro ${name}` },
    ]),
  );
}
