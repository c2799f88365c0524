import { TRANSPORT_NAMES, TRANSPORTS, type TransportName } from '@pindro/core/browser';

/** How a tool server is spoken to. */
export type Speaks = TransportName;
/** All transports. */
export const SPEAKS = TRANSPORT_NAMES;

/** The same as people read them. */
export const SPEAKS_WORDS = Object.fromEntries(SPEAKS.map((name) => [name, TRANSPORTS[name].words])) as Record<
  Speaks,
  string
>;

/** What becomes of changes of a server's tools, as people read it. */
export const WATCH_WORDS = {
  hold: 'all changes are on hold until somebody accepts them',
  flagged: 'changes that a rule flags are on hold until somebody accepts them',
  allow: 'all changes are accepted automatically',
} as const;
