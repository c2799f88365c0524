import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { FORMER_PATHS, type RouteName, routes } from '@pindro/contract';
import { humanSize, PindroError } from '@pindro/core';
import express, { type ErrorRequestHandler, type Express } from 'express';
import { mcpListener } from '../endpoints/mcp/route.js';
import { identify } from '../people/identify.js';
import { Api } from '../platform/api.js';
import { type Capability, defineCapability } from '../platform/capability.js';
import { gate, guardOf } from '../platform/gate.js';
import { requestOrigin } from '../platform/origin.js';
import { servePages } from '../platform/pages.js';
import { problemHandler } from '../platform/problems.js';
import type { Settings } from '../platform/settings.js';
import { refuseUnknown } from '../platform/unknown.js';
import type { PartsRegistry } from './parts.js';

declare module '../platform/capability.js' {
  interface Parts {
    http: HttpServer;
  }
}

/** How long answers may take to leave once everything else has ended, in milliseconds. */
const FAREWELL = 300;
/** How long the head and the whole of a request may take to arrive, in milliseconds: one that never ends is ended. */
const LIMITS = {
  requestTimeout: 60_000,
  headersTimeout: 20_000,
  keepAliveTimeout: 65_000,
  // Looked for as often as that: requests that stand half-sent hold memory and a connection.
  connectionsCheckingInterval: 5000,
};

/** Everything that answers over HTTP. */
class HttpServer {
  /** Where it listens; empty until then. */
  url = '';
  #server: Server | null = null;
  #closed: Promise<void> = Promise.resolve();

  async listen(registry: PartsRegistry, capabilities: readonly Capability[]): Promise<void> {
    const settings = registry.get('settings');
    const app = buildApp(registry, capabilities);
    const [admission, sessions] = [registry.get('admission'), registry.get('sessions')];
    const origin = requestOrigin(settings);
    const mcp = mcpListener({ guard: guardOf(ownNames(settings), origin), admission, sessions });
    const overTls = settings.publicUrl?.startsWith('https:') ?? false;
    const server = createServer(LIMITS, (request, response) => {
      harden(request, response, overTls);
      if (!mcp(request, response)) app(request, response);
    });
    this.url = await listen(server, settings.host, settings.port);
    this.#server = server;
  }

  /** Accepts no further connections; active ones continue. */
  refuseNew(): void {
    const server = this.#server;
    if (server) this.#closed = new Promise((resolve) => void server.close(() => resolve()));
  }

  async close(): Promise<void> {
    const server = this.#server;
    if (!server) return;
    server.closeIdleConnections();
    // What has just been answered may still be on its way out; streams that never end are then cut.
    await Promise.race([this.#closed, new Promise((resolve) => setTimeout(resolve, FAREWELL))]);
    server.closeAllConnections();
    await this.#closed;
  }
}

export const httpCapability = defineCapability({
  name: 'http',
  gives: ['http'],
  open: () => ({ http: new HttpServer() }),
  close: ({ http }) => http.close(),
});

/** A flow document is at most 2 MiB, and JSON can make it three times as long: more is refused by its length, unread. */
const DOCUMENT = 2 * 1024 * 1024;
const refuseLongDocument: ErrorRequestHandler = (thrown, _request, _response, next) => {
  // Raising the limit of bodies would not help.
  const long = thrown?.type === 'entity.too.large' && thrown.limit >= DOCUMENT;
  next(long ? new PindroError('flow_too_large', { limit: humanSize(DOCUMENT) }) : thrown);
};

/** Returns the paths of routes of the API, the former ones included. */
const pathsOf = (...names: RouteName[]) =>
  names.flatMap((name) => [routes[name].path, FORMER_PATHS[name] ?? []].flat()).map((path) => `/api/v1${path}`);
/** An OpenAPI document has at most 10 MiB, and as a text in JSON up to twice as many. */
const LONGEST_API_DOCUMENT = 21 * 1024 * 1024;

/** Files that never change under their name, and may be kept. */
const STATIC = ['/assets/', '/public/'];

/** Headers of every response: no content sniffing, no caching. */
function harden(request: IncomingMessage, response: ServerResponse, overTls: boolean): void {
  // Endpoints set these with their other headers: a call of a tool is answered in a fraction of a millisecond.
  if (request.url?.startsWith('/mcp/') && !overTls) return;
  response.setHeader('X-Content-Type-Options', 'nosniff');
  if (overTls) response.setHeader('Strict-Transport-Security', 'max-age=31536000');
  if (!STATIC.some((path) => request.url?.startsWith(path))) response.setHeader('Cache-Control', 'no-store');
}

/** Everything but the endpoints: hooks, forms and chats, the API, the console. */
function buildApp(registry: PartsRegistry, capabilities: readonly Capability[]): Express {
  const [settings, keys] = [registry.get('settings'), registry.get('keys')];
  const [people, guesses] = [registry.get('people'), registry.get('guesses')];
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', [...settings.trustedProxies]);
  app.set('etag', false);
  app.use(gate(guardOf(ownNames(settings), requestOrigin(settings)), (path) => path.startsWith('/hooks/')));
  for (const capability of capabilities) capability.pages?.(app, registry.for(capability));
  const api = new Api(identify(keys, people, guesses));
  for (const capability of capabilities) capability.routes?.(api, registry.for(capability));
  const readFlow = express.json({ limit: Math.min(settings.bodyLimit, 3 * DOCUMENT) });
  app.post(pathsOf('importFlow', 'checkFlow', 'previewFlow'), readFlow, refuseLongDocument);
  app.put(pathsOf('saveDraft'), readFlow, refuseLongDocument);
  // OpenAPI documents are long. They are read only after the caller is identified.
  app.post(
    pathsOf('inspectDocument', 'importDocument', 'refreshDocument'),
    identify(keys, people, guesses),
    express.json({ limit: LONGEST_API_DOCUMENT }),
  );
  app.use('/api/v1', express.json({ limit: settings.bodyLimit }), api.router);
  servePages(app, settings.console);
  app.use(refuseUnknown(app));
  app.use(problemHandler());
  return app;
}

/** Host names of the service in addition to those of this machine. */
function ownNames({ host, publicUrl }: Settings): ReadonlySet<string> {
  const names = [host.toLowerCase(), ...(publicUrl ? [new URL(publicUrl).hostname.toLowerCase()] : [])];
  return new Set(names);
}

function listen(server: Server, host: string, port: number): Promise<string> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(error.code === 'EADDRINUSE' ? new PindroError('port_taken', { host, port }) : error),
    );
    server.listen(port, host, () => {
      const { port: taken } = server.address() as AddressInfo;
      resolve(`http://${host.includes(':') ? `[${host}]` : host}:${taken}`);
    });
  });
}
