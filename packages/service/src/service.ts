import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { openApi } from '@pindro/contract';
import { flowJsonSchema, humanDuration, PindroError, type Ports, type RunHead, type TraceEvent } from '@pindro/core';
import express, { type Express } from 'express';
import { rateLimit } from 'express-rate-limit';
import { ConversationStore } from './conversations/store.js';
import { credentialRoutes } from './credentials/routes.js';
import { CredentialStore } from './credentials/store.js';
import { Vault } from './credentials/vault.js';
import { callExposed } from './endpoints/call.js';
import { mcpRoutes } from './endpoints/mcp/route.js';
import { Sessions } from './endpoints/mcp/sessions.js';
import { EndpointPresenter, endpointRoutes } from './endpoints/routes.js';
import { EndpointStore } from './endpoints/store.js';
import { flowRoutes } from './flows/routes.js';
import { FlowStore } from './flows/store.js';
import { keyRoutes } from './keys/routes.js';
import { KeyStore } from './keys/store.js';
import { mailboxRoutes } from './mailbox/routes.js';
import { modelRoutes } from './models/routes.js';
import { ModelStore } from './models/store.js';
import { identify, signInPage } from './people/identify.js';
import { peopleRoutes } from './people/routes.js';
import { PeopleStore } from './people/store.js';
import { Api } from './platform/api.js';
import { takeDataDirectory } from './platform/data-directory.js';
import { openDatabase } from './platform/database/open.js';
import { Bus } from './platform/events.js';
import { webFetch } from './platform/fetch.js';
import { gate, isLoopback } from './platform/gate.js';
import { createLog } from './platform/log.js';
import { servePages } from './platform/pages.js';
import { problemHandler } from './platform/problems.js';
import { readSettings, type SettingsInput } from './platform/settings.js';
import { runRoutes } from './runs/routes.js';
import { Runner } from './runs/runner.js';
import { RunStore, summarise } from './runs/store.js';
import { RunWriter } from './runs/writer.js';
import { serverChatRoute } from './servers/chat.js';
import { serverRoutes } from './servers/routes.js';
import { ServerStore } from './servers/store.js';
import { statusRoutes } from './status.js';
import { tableRoutes } from './tables/routes.js';
import { TableStore } from './tables/store.js';
import { usersOf } from './usage.js';

export const VERSION = '0.1.0';
/** How long runs may go on after the service was asked to stop. */
const PATIENCE = 5000;
/** How long answers may take to leave after that, in milliseconds. */
const FAREWELL = 300;

export interface Service {
  /** Where it listens, or the public address where one is set. */
  url: string;
  /** A one-time link that opens the console. */
  signInLink(): string;
  bus: Bus;
  flows: FlowStore;
  endpoints: EndpointStore;
  servers: ServerStore;
  models: ModelStore;
  tables: TableStore;
  keys: KeyStore;
  credentials: CredentialStore;
  close(): Promise<void>;
}

/** Starts the service. @throws data_directory, and what listening on the port throws */
export async function startService(given: SettingsInput): Promise<Service> {
  const settings = readSettings(given);
  const giveBack = takeDataDirectory(settings.data);
  const log = createLog(settings.logLevel);
  const bus = new Bus();
  let url = '';
  const address = () => settings.publicUrl?.replace(/\/+$/, '') ?? url;

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
  const endpoints: EndpointStore = new EndpointStore(config, bus, flows, servers);
  const runs = new RunStore(record);
  runs.markInterrupted(Date.now());
  const writer = new RunWriter(record, (value) => vault.seal(JSON.stringify(value), 'run'));

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
    record: { emit: (event) => passOn(event, writer, bus, runs), commit: () => writer.commit() },
  };
  const runner = new Runner(ports, bus, address);
  const sessions = new Sessions();
  const presenter = new EndpointPresenter({ store: endpoints, keys, sessions, address });

  bus.on('changed', (what, name) => {
    if (what === 'key') void sessions.endOfKey(name).catch(() => {});
    if (what === 'credential') void servers.credentialChanged(name);
    if (what === 'flow' || what === 'server' || what === 'endpoint')
      for (const session of sessions.all()) void session.announce();
  });

  const api = new Api(identify(keys, people));
  const partsOf = { store: flows, endpoints, presenter, keys, runner, around };
  flowRoutes(api, partsOf);
  endpointRoutes(api, endpoints, presenter);
  serverRoutes(api, servers, (name) => usersOf('servers', name, flows, endpoints));
  serverChatRoute(api, { servers, models, runner });
  credentialRoutes(api, credentials, (name) => [
    ...usersOf('credentials', name, flows, endpoints),
    ...servers.usersOf(name),
    ...models.usersOf(name),
  ]);
  modelRoutes(api, models);
  keyRoutes(api, keys, (name) => void endpoints.get(name));
  tableRoutes(api, tables);
  runRoutes(api, { store: runs, runner, flows, vault });
  mailboxRoutes(api, settings.mailbox);
  peopleRoutes(api, people, address);
  statusRoutes(api, {
    version: VERSION,
    address,
    runs,
    flows,
    endpoints,
    servers,
    models,
    bus,
    mailbox: settings.mailbox !== undefined,
  });

  const app: Express = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  const publicHost = settings.publicUrl ? [new URL(settings.publicUrl).hostname.toLowerCase()] : [];
  app.use(gate(new Set([settings.host.toLowerCase(), ...publicHost])));
  mcpRoutes(app, {
    endpoints,
    keys,
    sessions,
    mayBeOpen: isLoopback(settings.host),
    bodyLimit: settings.bodyLimit,
    log,
    partsFor: (endpoint, access) => ({
      version: VERSION,
      document: () => endpoints.get(endpoint),
      tools: () => endpoints.served(endpoint, access.stage),
      call: (request) => callExposed(request, { flows, runner, zone: settings.timeZone }),
      urlOf: (run) => runner.urlOf(run),
      onClient: () => bus.changed('client', endpoint),
      told: ({ tool, state, milliseconds, why }) => {
        if (bus.listenerCount('line') > 0)
          bus.emit(
            'line',
            `${endpoint}.${tool}  ${access.caller.id}  ${state} in ${humanDuration(milliseconds)}${why ? `  ${why}` : ''}`,
          );
      },
    }),
  });
  app.get(
    '/sign-in',
    rateLimit({
      windowMs: 60_000,
      limit: 30,
      handler: () => {
        throw new PindroError('too_many_requests');
      },
    }),
    signInPage(people),
  );
  app.get('/api/v1/openapi.json', (_request, response) => void response.json(openApi(address(), VERSION)));
  app.get('/api/v1/schemas/flow.json', (_request, response) => void response.json(flowJsonSchema()));
  app.use('/api/v1', express.json({ limit: settings.bodyLimit }), api.router);
  servePages(app, settings.console);
  app.use((request) => {
    throw new PindroError('no_such_address', { method: request.method, path: request.path });
  });
  app.use(problemHandler(log));

  const server = createServer({ requestTimeout: 60_000, headersTimeout: 20_000, keepAliveTimeout: 65_000 }, app);
  url = await listen(server, settings.host, settings.port).catch((error: unknown) => {
    giveBack();
    throw error;
  });
  servers.start();

  return {
    get url() {
      return address();
    },
    signInLink: () => `${address()}/sign-in?code=${people.newCode()}`,
    bus,
    flows,
    endpoints,
    servers,
    models,
    tables,
    keys,
    credentials,
    close: async () => {
      const closed = new Promise((resolve) => server.close(resolve));
      await runner.close(PATIENCE);
      await sessions.close();
      await servers.close();
      server.closeIdleConnections();
      // What has just been answered may still be on its way out; streams that never end are then cut.
      await Promise.race([closed, new Promise((resolve) => setTimeout(resolve, FAREWELL))]);
      server.closeAllConnections();
      await closed;
      writer.flush();
      config.door.close();
      record.door.close();
      giveBack();
    },
  };
}

/** Hands an event of a run to the record and to whoever watches. */
function passOn(event: TraceEvent, writer: RunWriter, bus: Bus, runs: RunStore): void {
  if (event.type === 'live') {
    if (bus.listenerCount('live') > 0) bus.emit('live', event);
    return;
  }
  writer.emit(event);
  if (event.type !== 'journal' || bus.listenerCount('run') === 0) return;
  const { entry } = event;
  if (entry.type === 'started' || entry.type === 'ended') setTimeout(() => announce(entry.run, runs, bus), 60).unref();
}

/** Tells watchers of a run as the record has it by then. */
function announce(run: RunHead['id'], runs: RunStore, bus: Bus): void {
  try {
    bus.emit('run', summarise(runs.get(run)));
  } catch {
    // not written yet, or the service is closing; the next event tells
  }
}

function listen(server: Server, host: string, port: number): Promise<string> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, () => {
      const { port: taken } = server.address() as AddressInfo;
      resolve(`http://${host.includes(':') ? `[${host}]` : host}:${taken}`);
    });
  });
}
