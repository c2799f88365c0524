import { fileURLToPath } from 'node:url';
import { openApi } from '@pindro/contract';
import { flowJsonSchema, inputSchema, PindroError } from '@pindro/core';
import express, { type Express } from 'express';
import { rateLimit } from 'express-rate-limit';
import { approvalRoutes } from './approvals/routes.js';
import { credentialRoutes } from './credentials/routes.js';
import { documentRoutes } from './documents/routes.js';
import { endpointJsonSchema } from './endpoints/document.js';
import { type McpListener, mcpListener } from './endpoints/mcp/route.js';
import { endpointRoutes } from './endpoints/routes.js';
import { chatRoutes } from './entries/chats.js';
import { formRoutes } from './entries/forms.js';
import { hookRoutes } from './entries/hooks.js';
import { entryRoutes, waysInto } from './entries/routes.js';
import { flowBuildingRoutes } from './flows/building-routes.js';
import { flowRoutes, summaryOf } from './flows/routes.js';
import type { House } from './house.js';
import { keyRoutes } from './keys/routes.js';
import { mailboxRoutes } from './mailbox/routes.js';
import { modelRoutes } from './models/routes.js';
import { identify, signInPage, signInWithPassword } from './people/identify.js';
import { peopleRoutes } from './people/routes.js';
import { Api } from './platform/api.js';
import type { Bus } from './platform/events.js';
import { gate, guardOf } from './platform/gate.js';
import type { Logger } from './platform/log.js';
import { servePages } from './platform/pages.js';
import { problemHandler } from './platform/problems.js';
import type { Settings } from './platform/settings.js';
import { runRoutes } from './runs/routes.js';
import { serverChatRoute } from './servers/chat.js';
import { serverRoutes } from './servers/routes.js';
import { statusRoutes } from './status.js';
import { tableRoutes } from './tables/routes.js';
import { trialRoutes } from './trials/routes.js';
import { usersOf } from './usage.js';
import { VERSION } from './version.js';
import { workshopRoutes } from './workshop/routes.js';
import { workspaceRoutes } from './workspace/routes.js';

interface Surroundings {
  house: House;
  settings: Settings;
  bus: Bus;
  log: Logger;
  address(): string;
}

/** Everything that answers over HTTP but the endpoints: hooks, forms and chats, the API, the console. */
export function buildApp({ house, settings, bus, log, address }: Surroundings): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  app.use(gate(ownNames(settings), (path) => path.startsWith('/hooks/')));
  publicRoutes(app, house, settings);
  app.get('/sign-in', rateLimit({ windowMs: 60_000, limit: 30, handler: refuseMany }), signInPage(house.people));
  app.post(
    '/sign-in',
    rateLimit({ windowMs: 60_000, limit: 10, handler: refuseMany }),
    express.json({ limit: 4096 }),
    signInWithPassword(house.people),
  );
  app.get('/api/v1/openapi.json', (_request, response) => void response.json(openApi(address(), VERSION)));
  app.get('/api/v1/schemas/flow.json', (_request, response) => void response.json(flowJsonSchema()));
  app.get('/api/v1/schemas/endpoint.json', (_request, response) => void response.json(endpointJsonSchema()));
  // A flow document is at most 2 MiB, and JSON can make it three times as long: more is refused by its length, unread.
  const documents = ['/api/v1/flows', '/api/v1/flows/check', '/api/v1/flows/preview'];
  app.post(documents, express.json({ limit: Math.min(settings.bodyLimit, 6 * 1024 * 1024) }));
  app.use('/api/v1', express.json({ limit: settings.bodyLimit }), buildApi(house, settings, bus, address).router);
  servePages(app, settings.console);
  app.use((request) => {
    throw new PindroError('no_such_address', { method: request.method, path: request.path });
  });
  app.use(problemHandler(log));
  return app;
}

/** The names that the service goes by, besides those of this machine. */
function ownNames({ host, publicUrl }: Settings): ReadonlySet<string> {
  const names = [host.toLowerCase(), ...(publicUrl ? [new URL(publicUrl).hostname.toLowerCase()] : [])];
  return new Set(names);
}

/** Everything at `/mcp/`, which stands before the app. */
export function buildMcp({ house: { admission, sessions }, settings, log }: Surroundings): McpListener {
  return mcpListener({ guard: guardOf(ownNames(settings)), admission, sessions, bodyLimit: settings.bodyLimit, log });
}

/** What strangers reach: hooks, forms and chats. */
function publicRoutes(app: Express, { entries, keys, flows, runs, begin }: House, settings: Settings): void {
  const documentOf = (flow: string) => flows.loadNow(flow, 'live').document;
  const parts = {
    store: entries,
    keys,
    bodyLimit: settings.bodyLimit,
    begin,
    documentOf,
    inputOf: (flow: string) => inputSchema(documentOf(flow)),
    history: (flow: string, session: string) => runs.list({ flow, session, roots: true, limit: 50 }).items.toReversed(),
  };
  app.use('/public', express.static(fileURLToPath(new URL('../public', import.meta.url)), { maxAge: '1h' }));
  hookRoutes(app, parts);
  formRoutes(app, parts);
  chatRoutes(app, parts);
}

function refuseMany(): never {
  throw new PindroError('too_many_requests');
}

function buildApi(house: House, settings: Settings, bus: Bus, address: () => string): Api {
  const {
    approvals,
    checker,
    documents,
    workspace,
    entries,
    trials,
    stepper,
    unseal,
    flows,
    endpoints,
    servers,
    models,
    credentials,
    keys,
    tables,
    runs,
    runner,
    people,
    presenter,
    sessions,
    diary,
    vault,
    around,
  } = house;
  const api = new Api(identify(keys, people));
  flowRoutes(api, { store: flows, endpoints, presenter, keys, runner, around, checker });
  flowBuildingRoutes(api, {
    store: flows,
    endpoints,
    around,
    zone: settings.timeZone,
    summary: (flow) => summaryOf(flow, flows, endpoints),
    usersOf: (flow) => usersOf('flows', flow, flows, endpoints),
    entriesOf: (flow) => waysInto(entries, flow),
  });
  trialRoutes(api, { trials, stepper, flows, runs, runner, unseal });
  approvalRoutes(api, approvals);
  documentRoutes(api, documents);
  workspaceRoutes(api, workspace);
  entryRoutes(api, { store: entries, flows, address });
  endpointRoutes(api, { store: endpoints, presenter, keys, sessions, diary, runs, runner, flows, servers });
  workshopRoutes(api, house.bench, sessions);
  serverRoutes(api, servers, (name) => usersOf('servers', name, flows, endpoints));
  serverChatRoute(api, { servers, models, runner });
  credentialRoutes(api, credentials, (name) => [
    ...usersOf('credentials', name, flows, endpoints),
    ...servers.usersOf(name),
    ...models.usersOf(name),
    ...keys.usersOf(name),
  ]);
  modelRoutes(api, models);
  keyRoutes(api, keys, {
    endpoint: (name) => void (name.startsWith('hook/') || endpoints.get(name)),
    server: (name) => void servers.summary(name),
    credential: (name) => void credentials.summary(name, []),
  });
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
    approvals,
  });
  return api;
}
