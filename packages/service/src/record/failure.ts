import { PindroError } from '@pindro/core';
import { storageReason } from '../platform/database/failure.js';

/** The database's codes for a record that this very row cannot be part of, whatever room there is. */
const UNFIT = /^SQLITE_(CONSTRAINT|TOOBIG|MISMATCH)/;

/**
 * Why something could not be written. `unfit`: it never can be, which is its run's own matter; otherwise the storage is
 * in trouble, and it may be written later.
 */
export function explainFailure(thrown: unknown): { unfit: boolean; error: PindroError } {
  if (thrown instanceof PindroError && thrown.code === 'value_unsafe') return { unfit: true, error: thrown };
  const unfit = UNFIT.test((thrown as { code?: string }).code ?? '');
  return { unfit, error: new PindroError('storage_failed', { why: storageReason(thrown) }, { cause: thrown }) };
}
