import { TRANSPORT_NAMES, TRANSPORTS, type TransportName } from '@pindro/core/browser';

/** Name of a transport. */
export type Speaks = TransportName;
/** All transports. */
export const SPEAKS = TRANSPORT_NAMES;

/** Labels of transports. */
export const SPEAKS_WORDS = Object.fromEntries(SPEAKS.map((name) => [name, TRANSPORTS[name].words])) as Record<
  Speaks,
  string
>;

/** Labels of the policies for tool changes. */
export const WATCH_WORDS = {
  hold: 'all changes are on hold until somebody accepts them',
  flagged: 'changes that a rule flags are on hold until somebody accepts them',
  allow: 'all changes are accepted automatically',
} as const;
