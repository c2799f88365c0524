import { anyJson } from '@pindro/core/browser';
import { z } from 'zod';

/* Shapes that several addresses take or answer. */

export const json = anyJson;
export const jsonObject = z.record(z.string(), json);
export const done = z.object({ done: z.literal(true) });
export const document = z.union([z.string(), jsonObject]).describe('YAML or JSON text, or the document itself');
export const written = z.object({ document });
export const secret = z.string().min(1).describe('Encrypted immediately and never shown again');
export const capture = z
  .boolean()
  .optional()
  .describe('Captures every request and response of the run (runExchanges), not only failed ones');
export const page = z.object({
  limit: z.coerce.number().int().min(1).max(500).default(50),
  cursor: z.string().optional(),
});
