import resources from 'virtual:pindro-resources';
import { type PlainVerbs, plainVerbsOf, type ResourceName } from '@pindro/contract/light';
import { api } from '../state/api.js';

/** The operations of a resource that is a name with fields. */
export const savedOf = (type: ResourceName): PlainVerbs => plainVerbsOf(api, resources[type]);
