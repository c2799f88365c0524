export { FAULTS, LISTS, type ListName } from './faulty/faults.js';
export { type FaultyServer, startFaultyServer } from './faulty/server.js';
export { HUTS, MAX_KG } from './lift/loads.js';
export { type Lift, type LiftOptions, startLift } from './lift/server.js';
export { type Mailbox, type Message, startMailbox } from './mailbox/mailbox.js';
export { type Model, startModel } from './model/server.js';
export { type ChatMessage, type Thought, think } from './model/think.js';
export { type Order, startWholesaler, type Wholesaler } from './wholesaler/server.js';

import { fileURLToPath } from 'node:url';

/** Tool servers that are programs of their own: what to run, by name. */
export const PROGRAMS = {
  trails: fileURLToPath(new URL('./trails/main.js', import.meta.url)),
  faulty: fileURLToPath(new URL('./faulty/main.js', import.meta.url)),
};
