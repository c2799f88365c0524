import { z } from 'zod';
import type { Json } from './json.js';

/**
 * Any JSON value, for data parsed from JSON or YAML. Zod's own schema visits every part, which takes a second per
 * megabyte.
 */
export const anyJson = z.any().refine((value) => value !== undefined, { error: 'is missing' }) as z.ZodType<Json>;
