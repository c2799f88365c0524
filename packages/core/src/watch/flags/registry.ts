import type { FlagRule } from '../flag.js';
import { asksSecrets } from './asks-secrets.js';
import { hidden } from './hidden.js';
import { imitates } from './imitates.js';
import { lookAlike } from './look-alike.js';
import { misplaced } from './misplaced.js';
import { orders } from './orders.js';
import { promises } from './promises.js';
import { reaches } from './reaches.js';
import { tooLong } from './too-long.js';

/** All checks for external tools. A new rule is a file in this folder and a line here. */
export const FLAG_RULES: readonly FlagRule[] = [
  orders,
  hidden,
  lookAlike,
  misplaced,
  reaches,
  imitates,
  asksSecrets,
  tooLong,
  promises,
];
