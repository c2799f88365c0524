/** What of a run is found again by one look: who took part in it, and what was found. */
export const MARKS = ['tool', 'server', 'model', 'entry', 'trace', 'finding'] as const;
export type MarkKind = (typeof MARKS)[number];
/** Where most runs come from: they are found without a mark. */
const COMMON: readonly string[] = ['tool', 'flow', 'agent'];
/** Something in the run failed, whether it was dealt with or not. */
export const FAILED = 'failed';
/** A client received an error instead of the result. */
export const WITHHELD = 'withheld';
/** Whether runs that come from there have a mark of it. */
export const isMarked = (entry: string): boolean => !COMMON.includes(entry);
export const markOf = (kind: MarkKind, name: string): string => `${kind}:${name}`;
