import { access } from './catalogue/access.js';
import { flows } from './catalogue/flows.js';
import { outside } from './catalogue/outside.js';
import { requests } from './catalogue/requests.js';
import { service } from './catalogue/service.js';
import { steps } from './catalogue/steps.js';
import { tables } from './catalogue/tables.js';

/** Every error that leaves Pindro, by what it is about. Nothing else is thrown at a boundary. */
export const catalogue = { ...requests, ...access, ...flows, ...steps, ...outside, ...tables, ...service } as const;
