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

export const problemsCapability: Capability = {
  name: 'problems',
  open: (parts) => {
    const problems = new ProblemStore(parts.record, ({ id, title, state }) => {
      parts.bus.changed('problem', id);
      parts.log.info({ problem: id, state }, title);
    });
    return { problems, diagnoser: new Diagnoser(parts.runs, problems, parts) };
  },
  routes: (api, parts) => problemRoutes(api, parts),
  close: ({ diagnoser }) => diagnoser.close(),
};
