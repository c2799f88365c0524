import { PindroError } from '@pindro/core';

/** Whether the storage, not what was to be written, is the reason. */
const isStorageFailure = (thrown: unknown): boolean =>
  /^(SQLITE_(FULL|IOERR|READONLY|CANTOPEN)|ENOSPC)/.test(String((thrown as { code?: unknown })?.code ?? ''));

/** Why something could not be written. */
export const storageReason = (thrown: unknown): string => {
  const { code = '', message = String(thrown) } = thrown as { code?: string; message?: string };
  return WORDS[code.split('_').slice(0, 2).join('_')] ?? message;
};

/** A full disk, or one that refuses, as the error that it is wherever it is met; null for anything else. */
export const storageFailure = (thrown: unknown): PindroError | null =>
  isStorageFailure(thrown)
    ? new PindroError('storage_failed', { why: storageReason(thrown) }, { cause: thrown })
    : null;

const WORDS: Record<string, string> = {
  SQLITE_FULL: 'no space is left',
  ENOSPC: 'no space is left',
  SQLITE_IOERR: 'the file system failed',
  SQLITE_READONLY: 'the files are not writable',
};
