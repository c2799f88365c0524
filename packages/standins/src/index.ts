export { HUTS, MAX_KG } from './lift/loads.js';
export { type Lift, type LiftOptions, startLift } from './lift/server.js';
export { type Mailbox, type Message, startMailbox } from './mailbox/mailbox.js';
export { type Model, startModel } from './model/server.js';
export { type ChatMessage, type Thought, think } from './model/think.js';
export { type Order, startWholesaler, type Wholesaler } from './wholesaler/server.js';
