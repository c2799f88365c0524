import { isGoverned, type Ports, type RunState } from '@pindro/core';
import { MailSender } from '../mail/sender.js';
import { defineCapability, type Parts } from '../platform/capability.js';
import { RunStore, summarise } from '../record/reading/run-store.js';
import { RunTexts } from '../record/reading/run-texts.js';
import type { RunEnd } from '../record/running.js';
import { recoverRuns } from './recover.js';
import { runRoutes } from './routes.js';
import { Runner } from './runner.js';

declare module '../platform/capability.js' {
  interface Parts {
    runs: RunStore;
    texts: RunTexts;
    runner: Runner;
    /** What runs reach. */
    runPorts: Ports;
    /** The record shows that a run has begun, ended, or waits. */
    runWritten(run: string, ended: RunState | null, end: RunEnd | null): void;
  }
}

/** Time for runs to finish during a stop, in milliseconds. */
const GRACE = 5000;

/** The arguments that the rules of a tool server supply; none where it is gone. */
const governed = (servers: Parts['servers'], name: string): string[] =>
  servers.names().includes(name)
    ? Object.entries(servers.repository.rules(name)).flatMap(([argument, rule]) => (isGoverned(rule) ? [argument] : []))
    : [];

type Whole<Port> = Port extends (...given: never[]) => unknown ? Port : Required<Port>;
/** Ports without optional members: one that was renamed away would be missed by nobody. */
type WholePorts = { [Name in keyof Ports]-?: Whole<NonNullable<Ports[Name]>> };

export const runsCapability = defineCapability({
  name: 'runs',
  needs: [
    'approvals',
    'clocks',
    'credentials',
    'endpoints',
    'flows',
    'former',
    'journal',
    'memory',
    'models',
    'record',
    'scripts',
    'servers',
    'stepper',
    'tables',
    'webFetch',
  ],
  later: ['diagnoser', 'metrics'],
  gives: ['runs', 'texts', 'runner', 'runPorts', 'runWritten'],
  open: (parts, later) => {
    const { record, journal, bus, settings } = parts;
    const runs = new RunStore(record, journal);
    const texts = new RunTexts(record);
    const runPorts = portsOf(parts);
    const runner = new Runner({
      ...{ ports: runPorts, bus, address: parts.address },
      trouble: () => journal.trouble,
      ended: (run) => runs.outcomeOf(run),
      limits: { atOnce: settings.runsAtOnce, queue: settings.runsQueued },
    });
    const runWritten = (run: string, ended: RunState | null, end: RunEnd | null) => {
      if (ended) {
        parts.tables.runEnded(run);
        parts.approvals.runEnded(run);
        if (end?.sums) texts.ended(run, end.sums.text);
        if (end?.remarkable) later.diagnoser.ended(run);
        if (end?.sums) later.metrics.count(end.sums, ended, end.at);
      }
      // Putting a run into words for nobody would cost a call a noticeable part of its time.
      if (bus.listenerCount('run') > 0) bus.emit('run', summarise(runs.get(run)));
    };
    return { runs, texts, runner, runPorts, runWritten };

    function portsOf(all: typeof parts): WholePorts {
      return {
        fetch: all.webFetch,
        tables: all.tables,
        toolServers: all.servers,
        flows: all.flows,
        endpoints: all.endpoints,
        models: { connection: async (name) => all.models.connection(name) },
        memory: all.memory,
        secrets: all.credentials.port,
        clock: {
          now: async () => all.clocks.wall(),
          deadline: async () => all.clocks.expiry(),
          zone: async () => settings.timeZone,
        },
        mail: new MailSender(settings.smtp, settings.mailFrom),
        scripts: all.scripts,
        approvals: all.approvals,
        stepping: all.stepper,
        record: journal,
        watch: {
          show: (event) => {
            if (bus.listenerCount('live') > 0) bus.emit('live', event);
          },
        },
      };
    }
  },
  routes: (api, { runs, texts, runner, flows, former, diagnoser, servers }) =>
    runRoutes(api, {
      store: runs,
      texts,
      runner,
      flows,
      former,
      diagnoser,
      ruled: (server) => governed(servers, server),
    }),
  listen: async ({ runs, runner, flows, journal, tables, log }) => {
    const { wentOn, inDoubt } = await recoverRuns({ runs, runner, flows, journal });
    if (wentOn + inDoubt > 0) log.info({ wentOn, inDoubt }, 'runs interrupted by the last stop');
    tables.tidyLedger((ids) => runs.ended(ids));
  },
  close: async ({ runner, journal, texts }) => {
    await runner.close(
      GRACE,
      (run) => journal.waits(run),
      () => journal.freeze(),
    );
    texts.close();
  },
});
