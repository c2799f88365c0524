import { join } from 'node:path';
import { asPindroError, type Json, type JsonObject, type Ports, type TraceEvent } from '@pindro/core';
import { ApprovalStore } from './approvals/store.js';
import { ConversationStore } from './conversations/store.js';
import { CredentialStore } from './credentials/store.js';
import { Vault } from './credentials/vault.js';
import { DocumentStore } from './documents/store.js';
import { Allowance } from './endpoints/allowance.js';
import type { BuiltIn } from './endpoints/built-in.js';
import { Admission } from './endpoints/mcp/admission.js';
import { Diary } from './endpoints/mcp/diary.js';
import { RunWatch } from './endpoints/mcp/progress.js';
import { Sessions } from './endpoints/mcp/sessions.js';
import { EndpointPresenter } from './endpoints/present.js';
import { sessionParts } from './endpoints/session-parts.js';
import { EndpointStore } from './endpoints/store.js';
import { beginnerOf } from './entries/begin.js';
import { Scheduler } from './entries/schedule.js';
import { EntryStore } from './entries/store.js';
import { FlowChecker } from './flows/checker.js';
import { FlowStore } from './flows/store.js';
import { KeyStore } from './keys/store.js';
import { MailSender } from './mail/sender.js';
import { ModelStore } from './models/store.js';
import { PeopleStore } from './people/store.js';
import { openDatabase } from './platform/database/open.js';
import type { Bus } from './platform/events.js';
import { webFetch } from './platform/fetch.js';
import { isLoopback } from './platform/gate.js';
import type { Settings } from './platform/settings.js';
import { resumeWaiting } from './runs/resume.js';
import { Runner } from './runs/runner.js';
import { RunStore, summarise } from './runs/store.js';
import { RunWriter } from './runs/writer.js';
import { ScriptPool } from './scripts/pool.js';
import { ServerStore } from './servers/store.js';
import { TableStore } from './tables/store.js';
import { Stepper } from './trials/stepper.js';
import { TrialStore } from './trials/store.js';
import { WorkshopEndpoint } from './workshop/built-in.js';
import { ProposalStore } from './workshop/proposals.js';
import { WorkshopStore } from './workshop/store.js';
import type { Bench } from './workshop/tools/tool.js';
import { WorkspaceFiles } from './workspace/files.js';

/** How long runs may go on after the service was asked to stop, in milliseconds. */
const PATIENCE = 5000;

export type House = ReturnType<typeof openHouse>;

/** Every store and what runs flows with them, before anything listens. @param address the service's own */
export function openHouse(settings: Settings, bus: Bus, address: () => string) {
  const config = openDatabase(join(settings.data, 'pindro.db'), 'config');
  const record = openDatabase(join(settings.data, 'runs.db'), 'runs');
  const vault = new Vault(settings.data, settings.secretKey);
  const credentials = new CredentialStore(config, vault, bus);
  const keys = new KeyStore(config, bus);
  const people = new PeopleStore(config);
  const tables = new TableStore(config, bus);
  const servers = new ServerStore(config, bus, credentials);
  const secrets = { reveal: async (name: string) => credentials.reveal(name) };
  const models = new ModelStore(config, bus, { fetch: webFetch, secrets });
  const around = () => ({
    flows: flows.names(),
    tables: tables.names(),
    models: models.names(),
    credentials: credentials.names(),
    servers: servers.allTools(),
    endpoints: endpoints.names(),
  });
  const flows: FlowStore = new FlowStore(config, bus, around);
  const endpoints: EndpointStore = new EndpointStore(config, bus, flows, servers, () => builtIns);
  const runs = new RunStore(record);
  runs.markInterrupted(Date.now());
  const writer = new RunWriter(
    record,
    (value) => vault.seal(JSON.stringify(value), 'run'),
    (run) => {
      if (bus.listenerCount('run') > 0) bus.emit('run', summarise(runs.get(run)));
    },
  );

  const approvals = new ApprovalStore(record, bus);
  const scripts = new ScriptPool();
  const checker = new FlowChecker();
  const stepper = new Stepper();
  const trials = new TrialStore(config, vault, bus);
  const unseal = (sealed: string) => JSON.parse(vault.unseal(sealed, 'run')) as Json;

  const ports: Ports = {
    fetch: webFetch,
    tables,
    toolServers: servers,
    flows,
    endpoints,
    models: { connection: async (name) => models.connection(name) },
    memory: new ConversationStore(config),
    secrets,
    clock: { now: async () => Date.now(), zone: async () => settings.timeZone },
    mail: new MailSender(settings.smtp, settings.mailFrom),
    scripts,
    approvals,
    stepping: stepper,
    record: {
      emit: (event) => passOn(event, writer, bus),
      commit: () => writer.commit(),
      recall: async (run) => runs.recall(run, unseal),
    },
  };
  const runner = new Runner(ports, bus, address);
  const entries = new EntryStore(config, vault, bus, settings.timeZone);
  const bench: Bench = {
    workshop: new WorkshopStore(config, bus, flows),
    proposals: new ProposalStore(config, bus),
    flows,
    endpoints,
    entries,
    runs,
    runner,
    checker,
    around,
    address,
  };
  const builtIns: readonly BuiltIn[] = [new WorkshopEndpoint(bench)];
  const documents = new DocumentStore(config, flows, bus);
  const workspace = new WorkspaceFiles({
    database: config,
    flows,
    endpoints,
    servers,
    tables,
    entries,
    credentials,
    models,
  });
  const begin = beginnerOf({ flows, runner });
  const scheduler = new Scheduler({
    store: entries,
    now: Date.now,
    begin: async (entry) => {
      if (entry.settings.kind !== 'schedule') return;
      const caller = { id: 'schedule', attributes: {} };
      await begin({ entry, input: entry.settings.input as JsonObject, caller }).ended;
    },
    failed: ({ flow }, error) => bus.emit('line', `${flow}  schedule  not begun  ${asPindroError(error).message}`),
  });
  bus.on('changed', (what) => what === 'entry' && scheduler.reload());
  const diary = new Diary(bus);
  const parts = {
    endpoints,
    flows,
    runner,
    bus,
    diary,
    watch: new RunWatch(bus),
    allowance: new Allowance(),
    zone: settings.timeZone,
  };
  const sessions = new Sessions(config, (endpoint, access) => sessionParts(parts, endpoint, access));
  const mayBeOpen = isLoopback(settings.host) || settings.openToAll;
  const admission = new Admission({ endpoints, keys, diary, mayBeOpen });
  const presenter = new EndpointPresenter({ store: endpoints, keys, sessions, address, command: settings.command });

  bus.on('changed', (what, name) => {
    if (what === 'key' && !keys.isGood(name)) sessions.endOfKey(name);
    if (what === 'credential') void servers.credentialChanged(name).catch(() => {});
    if (what !== 'flow' && what !== 'server' && what !== 'endpoint') return;
    for (const session of sessions.all()) session.announce();
  });

  return {
    vault,
    credentials,
    keys,
    people,
    tables,
    servers,
    models,
    flows,
    endpoints,
    runs,
    runner,
    checker,
    approvals,
    entries,
    documents,
    workspace,
    begin,
    scheduler,
    unseal,
    stepper,
    trials,
    /** Lets the runs go on that waited when the service stopped. */
    resume: () => resumeWaiting({ runs, runner, flows, writer, unseal }),
    sessions,
    admission,
    diary,
    presenter,
    bench,
    around,
    /** Lets what runs come to its end, then ends sessions and connections. */
    settle: async () => {
      scheduler.close();
      await runner.close(
        PATIENCE,
        (run) => writer.waits(run),
        () => writer.freeze(),
      );
      sessions.close();
      await servers.close();
    },
    close: () => {
      scripts.close();
      checker.close();
      writer.flush();
      config.door.close();
      record.door.close();
    },
  };
}

/** Hands an event of a run to the record and to whoever watches. */
function passOn(event: TraceEvent, writer: RunWriter, bus: Bus): void {
  if (event.type !== 'live') writer.emit(event);
  else if (bus.listenerCount('live') > 0) bus.emit('live', event);
}
