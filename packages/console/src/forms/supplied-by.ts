import type { Json } from '@pindro/core/browser';

/** Who supplies a value, in the words that every form has for it. */
export const SUPPLIERS = {
  value: 'fixed value',
  expression: 'expression',
  caller: 'caller or model',
  rule: 'argument rule of SERVER',
  nobody: 'nobody (omitted)',
} as const;
export type Supplier = keyof typeof SUPPLIERS;

/** Who supplies the value of a field, by what stands in it. */
export function supplierOfValue(value: Json | undefined): 'value' | 'expression' | 'caller' {
  if (typeof value !== 'string' || !value.includes('${')) return 'value';
  return /^\$\{\s*input\.\w+\s*\}$/.test(value) ? 'caller' : 'expression';
}
