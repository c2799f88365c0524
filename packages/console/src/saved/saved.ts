import resources from 'virtual:pindro-resources';
import type { ResourceName } from '@pindro/contract/light';
import { api } from '../state/api.js';

/** A plain resource as the API returns it: a name with fields. */
export interface SavedValue {
  name: string;
  by: string;
  at: string;
  [field: string]: unknown;
}

/** Resources that are a name with fields. */
export type SavedType = ResourceName;

/** The operations of a plain resource. */
export interface SavedOperations {
  list(): Promise<{ items: SavedValue[] }>;
  save(name: string, fields: Record<string, unknown>): Promise<SavedValue>;
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** The operations of a plain resource, whose names derive from its descriptor. */
export function savedOf(type: SavedType): SavedOperations {
  const { plural } = resources[type];
  const operations = api as unknown as Record<string, (args: object) => Promise<unknown>>;
  return {
    list: () => operations[`list${capital(plural)}`]!({}) as Promise<{ items: SavedValue[] }>,
    save: (name, body) => operations[`save${capital(type)}`]!({ name, body }) as Promise<SavedValue>,
  };
}

/** A value as a text that does not depend on the order of its properties. */
export const textOf = (value: unknown): string =>
  JSON.stringify(value, (_, inner) =>
    inner !== null && typeof inner === 'object' && !Array.isArray(inner)
      ? Object.fromEntries(Object.entries(inner).sort(([a], [b]) => a.localeCompare(b)))
      : inner,
  ) ?? '';
