import { PindroError } from '@pindro/core';

/** The database's codes for a record that this very row cannot be part of, whatever room there is. */
const UNFIT = /^SQLITE_(CONSTRAINT|TOOBIG|MISMATCH)/;

/**
 * Why something could not be written. `unfit`: it never can be, which is its run's own matter; otherwise the storage is
 * in trouble, and it may be written later.
 */
export function explainFailure(thrown: unknown): { unfit: boolean; error: PindroError } {
  if (thrown instanceof PindroError && thrown.code === 'value_unsafe') return { unfit: true, error: thrown };
  const { code = '', message } = thrown as { code?: string; message: string };
  const why = WORDS[code] ?? message;
  return { unfit: UNFIT.test(code), error: new PindroError('storage_failed', { why }, { cause: thrown }) };
}

const WORDS: Record<string, string> = {
  SQLITE_FULL: 'there is no space left',
  SQLITE_IOERR: 'the file system failed',
  SQLITE_READONLY: 'the files may not be written',
};
