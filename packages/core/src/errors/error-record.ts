import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import type { ErrorRecord } from './errors.js';

/** The error as a trace keeps it. The code is one of the catalogue of whoever wrote it. */
export const errorRecord = z.object({
  code: z.string(),
  message: z.string(),
  hint: z.string(),
  at: z.string().optional(),
  details: z.record(z.string(), anyJson).optional(),
}) as unknown as z.ZodType<ErrorRecord>;
