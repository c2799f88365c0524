import type { JsonSchema } from '@pindro/core/browser';

/** What holds where a field is left out, as the end of a sentence; nothing where there is nothing worth telling. */
export function humanDefault(schema: JsonSchema): string {
  const usual = schema.default;
  if (usual === undefined || usual === null || usual === '' || typeof usual === 'object') return '';
  const unit = typeof schema.unit === 'string' ? ` ${schema.unit}` : '';
  const said = usual === true ? 'yes' : usual === false ? 'no' : `${usual}${unit}`;
  return `. Default: ${said.replaceAll('_', ' ')}`;
}
