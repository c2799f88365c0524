/**
 * What becomes of what differs in a server's tools: all of it is held back until somebody accepts it, only what a rule
 * flags, or nothing.
 */
export const WATCHES = ['hold', 'flagged', 'allow'] as const;
export type Watch = (typeof WATCHES)[number];
