import { z } from 'zod';
import { SIZE } from './size.js';

/** A size such as `512KiB` or `4MiB`. */
export const size = z.string().regex(SIZE, 'must be a size such as 512KiB or 4MiB');
