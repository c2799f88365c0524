import { SUPPORTED_PROTOCOL_VERSIONS } from '@modelcontextprotocol/sdk/types.js';
import { PindroError } from '@pindro/core';
import express, { type ErrorRequestHandler, type Express, type Request, type Response } from 'express';
import type { Access, KeyStore } from '../../keys/store.js';
import type { Logger } from '../../platform/log.js';
import { presentable } from '../../platform/problems.js';
import type { EndpointStore } from '../store.js';
import { RpcFault, readMessage } from './message.js';
import type { SessionParts } from './session.js';
import type { Sessions } from './sessions.js';

interface Parts {
  endpoints: EndpointStore;
  keys: KeyStore;
  sessions: Sessions;
  partsFor(endpoint: string, access: Access): SessionParts;
  /** Whether open endpoints are open: only while nobody from elsewhere can reach them. */
  mayBeOpen: boolean;
  bodyLimit: number;
  log: Logger;
}

const ANYBODY: Access = {
  id: 'open',
  name: 'open endpoint',
  caller: { id: 'anybody', attributes: {} },
  stage: 'live',
  endpoints: [],
  manage: false,
};

interface Admitted {
  endpoint: string;
  access: Access;
}
const admitted = new WeakMap<Request, Admitted>();

const ADDRESS = '/mcp/:name';

/** Every endpoint at `/mcp/NAME`, over Streamable HTTP (MCP 2025-11-25, basic/transports). */
export function mcpRoutes(
  app: Express,
  { endpoints, keys, sessions, partsFor, mayBeOpen, bodyLimit, log }: Parts,
): void {
  /** Who calls, and whether they may; a stranger does not learn which endpoints there are. */
  const admit = (request: Request): Admitted => {
    const known = admitted.get(request);
    if (known) return known;
    const endpoint = String(request.params.name);
    const isOpen = mayBeOpen && endpoints.find(endpoint)?.access === 'open' && !request.headers.authorization;
    const access = isOpen ? ANYBODY : keys.present(request.headers.authorization);
    const opens = isOpen || access.endpoints.includes('*') || access.endpoints.includes(endpoint);
    if (!opens) throw new PindroError('not_allowed', { name: access.name, what: `endpoint "${endpoint}"` });
    endpoints.get(endpoint);
    const fresh = { endpoint, access };
    admitted.set(request, fresh);
    return fresh;
  };

  const sessionOf = (request: Request) => {
    const { endpoint, access } = admit(request);
    const version = request.headers['mcp-protocol-version'];
    if (typeof version === 'string' && !SUPPORTED_PROTOCOL_VERSIONS.includes(version)) {
      throw new RpcFault(
        400,
        -32600,
        `Protocol version ${version} is not spoken here. Supported: ${SUPPORTED_PROTOCOL_VERSIONS.join(', ')}.`,
      );
    }
    const id = request.headers['mcp-session-id'];
    return sessions.find(typeof id === 'string' ? id : undefined, endpoint, access);
  };

  app.post(
    ADDRESS,
    (request, _response, next) => {
      // Before the body is read: a stranger's megabytes are not worth parsing.
      admit(request);
      if (!request.is('application/json'))
        throw new RpcFault(415, -32600, 'Send the message with Content-Type application/json.');
      next();
    },
    express.json({ limit: bodyLimit, strict: false }),
    async (request: Request, response: Response) => {
      const message = readMessage(request.body);
      const starts = 'method' in message && message.method === 'initialize' && 'id' in message;
      if (!starts) return sessionOf(request).take(message, request, response);
      if (request.headers['mcp-session-id'] !== undefined)
        throw new RpcFault(400, -32600, 'This session has been initialized already.', message.id);
      const { endpoint, access } = admit(request);
      const session = await sessions.begin(endpoint, access, partsFor(endpoint, access));
      response.setHeader('Mcp-Session-Id', session.id);
      session.take(message, request, response);
    },
  );
  app.get(ADDRESS, (request, response) => {
    const session = sessionOf(request);
    if (!request.accepts('text/event-stream'))
      throw new RpcFault(406, -32600, 'Only text/event-stream can be had here.');
    session.remember();
    session.transport.listen(response);
  });
  app.delete(ADDRESS, async (request, response) => {
    await sessions.end(sessionOf(request).id);
    response.status(204).end();
  });
  app.all(ADDRESS, (_request, response) => {
    response.setHeader('Allow', 'GET, POST, DELETE');
    throw new RpcFault(405, -32600, 'Only GET, POST and DELETE are answered here.');
  });

  const faults: ErrorRequestHandler = (thrown, _request, response, next) => {
    if (response.headersSent) return next(thrown);
    if (thrown instanceof RpcFault) return void response.status(thrown.status).json(thrown.body());
    const error = presentable(thrown, log);
    if (error.status === 401) response.setHeader('WWW-Authenticate', 'Bearer realm="pindro"');
    const rpc = error.code === 'body_unreadable' ? -32700 : error.status >= 500 ? -32603 : -32600;
    response
      .status(error.status)
      .json(new RpcFault(error.status, rpc, `${error.message}. ${error.hint}`, null, error.toProblem()).body());
  };
  app.use('/mcp', faults);
}
