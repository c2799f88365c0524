import { RESOURCE } from '@pindro/contract';
import { plainCapability } from '../platform/plain.js';

/** Filters of runs that are kept under a name. */
export const filtersCapability = plainCapability(RESOURCE.filter, 'run_filters');
