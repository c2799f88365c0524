import { z } from 'zod';
import * as f from '../figures.js';
import type { Route } from './route.js';

/** Sums over many runs. */
export const figures = {
  figures: {
    method: 'GET',
    role: 'viewer',
    path: '/figures',
    about: 'Runs or calls, failures, times, tokens and money by what took part, hour by hour',
    query: z.object({
      by: f.figureBy.default('flow'),
      hours: z.coerce.number().int().min(1).max(720).default(24),
    }),
    answer: z.object({ items: z.array(f.figure) }),
  },
  metrics: {
    method: 'GET',
    role: 'viewer',
    path: '/metrics',
    about: 'What was counted since the service began, in the text format of Prometheus',
    answer: z.string(),
  },
} as const satisfies Record<string, Route>;
