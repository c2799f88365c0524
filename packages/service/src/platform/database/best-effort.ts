import { storageFailure } from './failure.js';

/** Notes something that nothing depends on: while the storage is full, whoever only reads is served all the same. */
export function bestEffort(note: () => unknown): void {
  try {
    note();
  } catch (error) {
    if (!storageFailure(error)) throw error;
  }
}
