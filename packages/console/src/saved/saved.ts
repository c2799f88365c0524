import resources from 'virtual:pindro-resources';
import { type PlainVerbs, plainVerbsOf, type ResourceName } from '@pindro/contract/light';
import { api } from '../state/api.js';

/** The operations of a resource that is a name with fields. */
export const savedOf = (type: ResourceName): PlainVerbs => plainVerbsOf(api, resources[type]);

/** A value as a text that does not depend on the order of its properties. */
export const textOf = (value: unknown): string =>
  JSON.stringify(value, (_, inner) =>
    inner !== null && typeof inner === 'object' && !Array.isArray(inner)
      ? Object.fromEntries(Object.entries(inner).sort(([a], [b]) => a.localeCompare(b)))
      : inner,
  ) ?? '';
