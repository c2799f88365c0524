import { z } from 'zod';
import * as f from '../metrics.js';
import type { Route } from './route.js';

/** Sums over many runs. */
export const metricRoutes = {
  metricSeries: {
    method: 'GET',
    role: 'viewer',
    path: '/metrics/series',
    about: 'Returns counts, failures, durations, tokens and cost of runs or calls by participant, hour by hour',
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
    about: 'Returns counters since the start of the service in the Prometheus text format',
    answer: z.string(),
  },
} as const satisfies Record<string, Route>;
