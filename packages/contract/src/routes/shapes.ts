import { anyJson } from '@pindro/core/browser';
import { z } from 'zod';

/* Shapes that several addresses take or answer. */

export const json = anyJson;
export const jsonObject = z.record(z.string(), json);
export const done = z.object({ done: z.literal(true) });
export const document = z.union([z.string(), jsonObject]).describe('YAML or JSON text, or the document itself');
export const written = z.object({ document });
export const secret = z.string().min(1).describe('Sealed at once and never shown again');
export const exact = z
  .boolean()
  .optional()
  .describe('Keeps every request and answer of the run as it goes over the wire (runExchanges), not only what failed');
export const page = z.object({
  limit: z.coerce.number().int().min(1).max(500).default(50),
  cursor: z.string().optional(),
});
