import { z } from 'zod';

export const FIGURES_BY = ['all', 'flow', 'endpoint', 'tool', 'server', 'model', 'caller'] as const;
export const figureBy = z.enum(FIGURES_BY);
export type FigureBy = z.infer<typeof figureBy>;

export const figure = z.object({
  name: z.string(),
  runs: z.number().describe('Finished runs, or calls'),
  failed: z.number(),
  p50: z.number().nullable().describe('Median duration (p50) in milliseconds, rounded up to the next bucket'),
  p95: z.number().nullable(),
  tokens: z.number(),
  cost: z.number(),
  over: z
    .array(z.object({ from: z.iso.datetime(), runs: z.number(), failed: z.number() }))
    .describe('Hour by hour; longer ranges in at most 60 intervals of several hours'),
});
export type Figure = z.infer<typeof figure>;
