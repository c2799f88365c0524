/** Policy for changed tools: all on hold until accepted, flagged ones only, or none. */
export const WATCHES = ['hold', 'flagged', 'allow'] as const;
export type Watch = (typeof WATCHES)[number];
