import type { RecordOverview } from '@pindro/contract';
import type { RecordState } from './retention.js';

const iso = (moment: number) => new Date(moment).toISOString();

/** The record as the contract shows it. */
export function presentRecord({ oldest, next, ...state }: RecordState): RecordOverview {
  return {
    ...state,
    oldest: oldest === null ? null : iso(oldest),
    next: next && { run: next.run, at: iso(next.at) },
  };
}
