import { storageFailure } from './failure.js';

/** Writes data that nothing depends on: reading must work while the storage is full. */
export function bestEffort(note: () => unknown): void {
  try {
    note();
  } catch (error) {
    if (!storageFailure(error)) throw error;
  }
}
