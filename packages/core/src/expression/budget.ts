/*
 * What one filling of a template, or one check, may cost. CEL always ends, but not soon: loops inside of loops, and
 * values that double with each `cel.bind`, cost a second for a handful of characters. Work is counted while it is
 * done; what cannot be counted (the comparison of two deep values, a check of types) is stopped by the clock.
 */

/** Nodes of an expression evaluated, items handled, and sixteenths of characters made. */
const WORK = 600_000;
/**
 * Milliseconds for what is counted. The count bounds it long before, also on a machine that does four things at once:
 * what a flow may do does not hang on who else is at work.
 */
const TIME = 1000;
/** Milliseconds for what cannot be counted. */
const HARD_TIME = 80;
/** How much work is done between two looks at the clock. */
const LOOK_EVERY = 512;

/** Thrown again and again by what goes on after the first time; making it anew would cost more than the work. */
export class OverBudget extends Error {
  readonly summary = 'it would take too much work; use it on less at once, or do it in a script step';
  constructor() {
    super('over budget');
    this.message = this.summary;
  }
}
const over = new OverBudget();

let left = Number.POSITIVE_INFINITY;
let sinceLook = 0;
let end = Number.POSITIVE_INFINITY;

/** Counts work. @throws OverBudget */
export function spend(work: number): void {
  left -= work;
  sinceLook += work;
  if (sinceLook > LOOK_EVERY) {
    sinceLook = 0;
    if (performance.now() > end) left = -1;
  }
  if (left < 0) throw over;
}

/** How much work it is to make or go through a value, without looking inside of its items. */
export function bulk(value: unknown): number {
  if (typeof value === 'string') return value.length >> 4;
  if (Array.isArray(value)) return value.length;
  return value instanceof Uint8Array ? value.length >> 4 : 0;
}

/** Stops work that goes on too long; hands its outcome on otherwise. @throws OverBudget */
export type HardStop = <T>(work: () => T, milliseconds: number) => T;
let hardStop: HardStop = (work) => work();

/** Hands in what can stop work in the middle, where the platform has something that can. */
export function useHardStop(stop: HardStop): void {
  hardStop = stop;
}

/**
 * Does work that may cost so much and no more. Work inside of it shares its budget.
 * @param hard whether it may do what cannot be counted @throws OverBudget
 */
export function withinBudget<T>(work: () => T, hard: boolean, time = TIME): T {
  if (end !== Number.POSITIVE_INFINITY) return hard ? stopped(work) : work();
  left = WORK;
  sinceLook = 0;
  end = performance.now() + time;
  try {
    const result = hard ? stopped(work) : work();
    // Loops that ask whether all or some items fit swallow errors, this one too.
    if (left < 0) throw over;
    return result;
  } finally {
    left = end = Number.POSITIVE_INFINITY;
  }
}

function stopped<T>(work: () => T): T {
  const time = Math.min(HARD_TIME, end - performance.now());
  if (time <= 0) throw over;
  return hardStop(work, time);
}

/** For whatever stops work by the clock. */
export const overBudget = (): OverBudget => over;
