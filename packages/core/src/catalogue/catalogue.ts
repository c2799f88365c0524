import { access } from './access.js';
import { flows } from './flows.js';
import { outside } from './outside.js';
import { requests } from './requests.js';
import { service } from './service.js';
import { steps } from './steps.js';
import { tables } from './tables.js';

/** Every error that leaves Pindro, by subject. Nothing else is thrown at a boundary. */
export const catalogue = { ...requests, ...access, ...flows, ...steps, ...outside, ...tables, ...service } as const;
