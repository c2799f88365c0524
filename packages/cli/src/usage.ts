import { PindroError } from '@pindro/core/browser';

/** A command that was used wrongly. @param why a sentence, without a full stop */
export const usage = (why: string, fix = 'Add --help for usage.'): PindroError =>
  new PindroError('usage', { why, fix });
