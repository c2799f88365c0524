/*
 * What one filling of a template, or one check, may cost. CEL always ends, but not soon: loops inside of loops, and
 * values that double with each `cel.bind`, cost a second for a handful of characters. All work is counted while it is
 * done, never timed: whether a flow works must not depend on how busy the machine is. A clock stands behind that as a
 * last resort, far above what any counted work takes on a machine ten times slower.
 */

/** Nodes of an expression evaluated, items handled and compared, and sixteenths of characters made. */
const WORK = 600_000;
/** The last resort, in milliseconds. */
const LAST_RESORT = 20_000;

/** Thrown repeatedly after the first time; creating a new one would be expensive. */
export class OverBudget extends Error {
  readonly summary = 'the expression needs too much work; apply it to less data, or use a script step';
  constructor() {
    super('over budget');
    this.message = this.summary;
  }
}
const over = new OverBudget();

let left = Number.POSITIVE_INFINITY;

/** Counts work. @throws OverBudget */
export function spend(work: number): void {
  left -= work;
  if (left < 0) throw over;
}

/** How much work it is to make or go through a value, without looking inside of its items. */
export function bulk(value: unknown): number {
  if (typeof value === 'string') return value.length >> 4;
  if (Array.isArray(value)) return value.length;
  return value instanceof Uint8Array ? value.length >> 4 : 0;
}

/**
 * Runs work and interrupts it if it exceeds the budget.
 * @throws OverBudget
 */
export type HardStop = <T>(work: () => T, milliseconds: number) => T;
let hardStop: HardStop = (work) => work();

/**
 * Registers a mechanism that can interrupt running work, where the platform has one.
 * @param stop what ends work over its limit
 */
export function useHardStop(stop: HardStop): void {
  hardStop = stop;
}

interface Budget {
  /** How much work it may do. */
  work?: number;
  /** Whether the last resort stands behind it; it costs as much as a small expression. */
  guarded?: boolean;
}

/** Does work that may cost so much and no more. Work inside of it shares its budget. @throws OverBudget */
export function withinBudget<T>(work: () => T, { work: most = WORK, guarded = false }: Budget = {}): T {
  if (left !== Number.POSITIVE_INFINITY) return work();
  left = most;
  try {
    const result = guarded ? hardStop(work, LAST_RESORT) : work();
    // Loops that ask whether all or some items fit swallow errors, this one too.
    if (left < 0) throw over;
    return result;
  } finally {
    left = Number.POSITIVE_INFINITY;
  }
}

/**
 * Returns the error for work that was stopped by its limit.
 * @returns the error with which work over its budget ends
 */
export const overBudget = (): OverBudget => over;
