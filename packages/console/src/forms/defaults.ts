import type { JsonSchema } from '@pindro/core/browser';

/** Describes the default of a field as the end of a sentence; empty if there is nothing to mention. */
export function humanDefault(schema: JsonSchema): string {
  const usual = schema.default;
  if (usual === undefined || usual === null || usual === '' || typeof usual === 'object') return '';
  const unit = typeof schema.unit === 'string' ? ` ${schema.unit}` : '';
  const said = usual === true ? 'yes' : usual === false ? 'no' : `${usual}${unit}`;
  return `. Default: ${said.replaceAll('_', ' ')}`;
}
