import { z } from 'zod';
import type { Json } from './json.js';

/**
 * Any JSON value, where what comes is known to be JSON: read from JSON or YAML text. Looking at each part of it, as Zod's
 * own schema does, takes a second for a megabyte.
 */
export const anyJson = z.any().refine((value) => value !== undefined, { error: 'is missing' }) as z.ZodType<Json>;
