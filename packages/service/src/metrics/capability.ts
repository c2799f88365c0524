import type { RunState } from '@pindro/core';
import { defineCapability } from '../platform/capability.js';
import { refusedArgument } from '../record/run-sums.js';
import { metricsText } from './prometheus.js';
import { MetricStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    metrics: MetricStore;
  }
}

const WENT_WRONG: readonly RunState[] = ['failed', 'interrupted'];
const MONTH = 30 * 24 * 60 * 60_000;

export const metricsCapability = defineCapability({
  name: 'metrics',
  needs: ['endpoints', 'journal', 'problems', 'record', 'runs'],
  gives: ['metrics'],
  open: ({ record }) => ({ metrics: new MetricStore(record) }),
  routes: (api, { metrics, runs, problems }) => {
    api.on('metricSeries', async ({ query }) => ({ items: await metrics.read(query.by, query.hours) }));
    api.on('metrics', ({ response }) => {
      const gauges = { runs_under_way: runs.count().running, problems_open: problems.count() };
      response.type('text/plain; version=0.0.4').send(metricsText(metrics, gauges));
      return '';
    });
  },
  // What was called before there were sums of it.
  listen: async ({ metrics, runs, endpoints }) => {
    if (!runs.hasEndpointCalls() || metrics.hasUse()) return;
    for (const { name, formerly } of endpoints.names().map((one) => endpoints.get(one))) {
      const calls = await runs.callsThrough([name, ...formerly], Date.now() - MONTH);
      metrics.takeIn(
        calls.map(({ state, startedAt, endedAt, error, ...call }) => ({
          ...{ ...call, endpoint: name, refused: error && refusedArgument(error), at: startedAt },
          ...{ took: Math.max(0, (endedAt ?? startedAt) - startedAt), failed: WENT_WRONG.includes(state) },
        })),
      );
    }
  },
  pages: (app, { journal }) => {
    app.get('/healthz', (_request, response) => void response.json({ healthy: true }));
    // It answers, but takes no work as long as nothing can be recorded.
    app.get('/readyz', (_request, response) => {
      const { trouble } = journal;
      response.status(trouble ? 503 : 200).json({ ready: !trouble, why: trouble?.message ?? null });
    });
  },
  close: ({ metrics }) => metrics.close(),
});
