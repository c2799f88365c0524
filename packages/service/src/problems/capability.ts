import type { ProblemSummary } from '@pindro/contract';
import { MailSender } from '../mail/sender.js';
import { defineCapability } from '../platform/capability.js';
import { bestEffort } from '../platform/database/best-effort.js';
import { Diagnoser } from './diagnoser.js';
import { FactGatherer } from './facts.js';
import { ProblemNotice } from './notice.js';
import { PROBLEM_PARTS, problemRoutes } from './routes.js';
import { ProblemStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    problems: ProblemStore;
    diagnoser: Diagnoser;
  }
}

const DAY = 24 * 60 * 60_000;

export const problemsCapability = defineCapability({
  name: 'problems',
  needs: [...PROBLEM_PARTS, 'endpoints', 'record', 'tables', 'webFetch'],
  gives: ['problems', 'diagnoser'],
  open: (parts) => {
    const { settings, log } = parts;
    const notice =
      settings.problemsTo === undefined
        ? null
        : new ProblemNotice(
            settings.problemsTo,
            { fetch: parts.webFetch, mail: new MailSender(settings.smtp, settings.mailFrom) },
            ({ id, lastRun }) => ({
              url: `${parts.address()}/problems/${id}`,
              receipt: parts.runs.find(lastRun)?.receipt ?? null,
            }),
            (error) => log.warn({ error: (error as Error).message }, 'the notification of a problem failed'),
          );
    const appeared = (problem: ProblemSummary) => {
      const { id, title, state } = problem;
      parts.bus.changed('problem', id);
      log.info({ problem: id, state }, title);
      notice?.tell(problem);
    };
    const problems = new ProblemStore(parts.record, appeared, (server, at) =>
      parts.servers.names().includes(server) ? parts.servers.watch.changedAbout(server, at) : null,
    );
    const diagnoser = new Diagnoser(parts.runs, problems, new FactGatherer(parts));
    parts.bus.on('withheld', (run) => {
      bestEffort(() => parts.runs.withhold(run));
      diagnoser.ended(run);
    });
    return { problems, diagnoser };
  },
  // Runs that ended just before a kill were not diagnosed.
  listen: ({ runs, diagnoser }) => {
    for (const run of runs.notLookedAt(Date.now() - DAY)) diagnoser.ended(run);
  },
  routes: (api, parts) => problemRoutes(api, parts),
  close: ({ diagnoser }) => diagnoser.close(),
});
