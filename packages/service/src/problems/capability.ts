import type { Capability } from '../platform/capability.js';
import { Diagnoser } from './diagnoser.js';
import { problemRoutes } from './routes.js';
import { ProblemStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    problems: ProblemStore;
    diagnoser: Diagnoser;
  }
}

const DAY = 24 * 60 * 60_000;

export const problemsCapability: Capability = {
  name: 'problems',
  open: (parts) => {
    const problems = new ProblemStore(parts.record, ({ id, title, state }) => {
      parts.bus.changed('problem', id);
      parts.log.info({ problem: id, state }, title);
    });
    return { problems, diagnoser: new Diagnoser(parts.runs, problems, parts) };
  },
  // What ended just before the service was killed was not looked at.
  listen: ({ runs, diagnoser }) => {
    for (const run of runs.notLookedAt(Date.now() - DAY)) diagnoser.ended(run);
  },
  routes: (api, parts) => problemRoutes(api, parts),
  close: ({ diagnoser }) => diagnoser.close(),
};
