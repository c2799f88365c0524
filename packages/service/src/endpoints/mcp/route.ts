import { SUPPORTED_PROTOCOL_VERSIONS } from '@modelcontextprotocol/sdk/types.js';
import express, {
  type ErrorRequestHandler,
  type Express,
  type Request,
  type RequestHandler,
  type Response,
} from 'express';
import type { Access } from '../../keys/store.js';
import type { Logger } from '../../platform/log.js';
import { presentable } from '../../platform/problems.js';
import type { Admission } from './admission.js';
import { HttpChannel } from './http-channel.js';
import { INVALID_REQUEST, RpcFault, readMessage } from './message.js';
import type { Sessions } from './sessions.js';
import { SseChannel } from './sse-channel.js';

interface Parts {
  admission: Admission;
  sessions: Sessions;
  bodyLimit: number;
  log: Logger;
}

interface Admitted {
  endpoint: string;
  access: Access;
}
const admitted = new WeakMap<Request, Admitted>();

const ADDRESS = '/mcp/:name';

/** Every endpoint at `/mcp/NAME`: Streamable HTTP (MCP 2025-11-25, basic/transports), and HTTP+SSE below it. */
export function mcpRoutes(app: Express, { admission, sessions, bodyLimit, log }: Parts): void {
  const admit = (request: Request): Admitted => {
    const known = admitted.get(request);
    if (known) return known;
    const fresh = admission.admit(String(request.params.name), request);
    admitted.set(request, fresh);
    return fresh;
  };
  /** The id of the session that a request belongs to, once its version is one that is spoken here. */
  const sessionId = (request: Request): string | undefined => {
    const version = request.headers['mcp-protocol-version'];
    if (typeof version === 'string' && !SUPPORTED_PROTOCOL_VERSIONS.includes(version)) {
      const known = SUPPORTED_PROTOCOL_VERSIONS.join(', ');
      throw new RpcFault(400, INVALID_REQUEST, `Protocol version ${version} is not spoken here. Supported: ${known}.`);
    }
    const id = request.headers['mcp-session-id'];
    return typeof id === 'string' ? id : undefined;
  };
  const sessionOf = (request: Request) => {
    const { endpoint, access } = admit(request);
    const id = sessionId(request);
    if (id === undefined)
      throw new RpcFault(
        400,
        INVALID_REQUEST,
        'The Mcp-Session-Id header is missing. Begin with an initialize request and send back the id it answers with.',
      );
    return sessions.find(id, endpoint, access);
  };
  const json: RequestHandler[] = [
    (request, _response, next) => {
      // Before the body is read: a stranger's megabytes are not worth parsing.
      admit(request);
      if (!request.is('application/json'))
        throw new RpcFault(415, INVALID_REQUEST, 'Send the message with Content-Type application/json.');
      next();
    },
    express.json({ limit: bodyLimit, strict: false }),
  ];

  app.post(ADDRESS, ...json, (request: Request, response: Response) => {
    const message = readMessage(request.body);
    const { endpoint, access } = admit(request);
    const isRequest = 'method' in message && 'id' in message;
    const starts = isRequest && message.method === 'initialize';
    const id = sessionId(request);
    if (starts && id !== undefined)
      throw new RpcFault(400, INVALID_REQUEST, 'This session has been initialized already.', message.id);
    const fresh = starts ? new HttpChannel('http') : null;
    const session = fresh
      ? sessions.begin(endpoint, access, fresh)
      : id === undefined
        ? sessions.stateless(endpoint, access).session
        : sessions.find(id, endpoint, access);
    const traceparent = request.headers.traceparent;
    if (!isRequest) {
      response.status(202).end();
      return session.take(message, traceparent);
    }
    if (session.busy(message.id)) {
      const why = `A request with id ${JSON.stringify(message.id)} is still being answered. Give each request an id of its own.`;
      throw new RpcFault(400, INVALID_REQUEST, why, message.id);
    }
    if (fresh) response.setHeader('Mcp-Session-Id', session.id);
    (session.channel as HttpChannel).expect(message.id, request, response);
    session.take(message, traceparent);
    if (fresh) {
      if (session.client.name) sessions.keep(session);
      else sessions.end(session);
    }
  });

  app.get(ADDRESS, (request, response) => {
    const session = sessionOf(request);
    if (!request.accepts('text/event-stream'))
      throw new RpcFault(406, INVALID_REQUEST, 'Only text/event-stream can be had here.');
    const after = request.headers['last-event-id'];
    const channel = session.channel as HttpChannel;
    const revived = !channel.listening && typeof after === 'string';
    channel.listen(response, typeof after === 'string' ? after : undefined);
    if (!revived) return session.remember();
    // What it was last told is not known any more; hearing of a change once too often does no harm.
    if (channel.listening) session.sayChanged();
  });
  app.delete(ADDRESS, (request, response) => {
    sessions.end(sessionOf(request));
    response.status(204).end();
  });
  app.all(ADDRESS, (_request, response) => {
    response.setHeader('Allow', 'GET, POST, DELETE');
    throw new RpcFault(405, INVALID_REQUEST, 'Only GET, POST and DELETE are answered here.');
  });

  // The older transport: a stream that says where to post, and answers that come over the stream.
  app.get(`${ADDRESS}/sse`, (request, response) => {
    const { endpoint, access } = admit(request);
    const channel = new SseChannel(response, (id) => `/mcp/${endpoint}/messages?session=${id}`);
    const session = sessions.begin(endpoint, access, channel);
    channel.open(session.id);
    session.remember();
    response.once('close', () => sessions.end(session));
  });
  app.post(`${ADDRESS}/messages`, ...json, (request: Request, response: Response) => {
    const message = readMessage(request.body);
    const { endpoint, access } = admit(request);
    const session = sessions.find(String(request.query.session ?? ''), endpoint, access, 'sse');
    if ('id' in message && 'method' in message && session.busy(message.id))
      throw new RpcFault(
        400,
        INVALID_REQUEST,
        `A request with id ${JSON.stringify(message.id)} is still being answered.`,
        message.id,
      );
    response.status(202).end();
    session.take(message, request.headers.traceparent);
  });

  const faults: ErrorRequestHandler = (thrown, request, response, next) => {
    if (response.headersSent) return next(thrown);
    if (thrown instanceof RpcFault) return void response.status(thrown.status).json(thrown.body());
    const error = presentable(thrown, log);
    admission.refused(request, error);
    if (error.status === 401) response.setHeader('WWW-Authenticate', 'Bearer realm="pindro"');
    const rpc = error.code === 'body_unreadable' ? -32700 : error.status >= 500 ? -32603 : INVALID_REQUEST;
    response
      .status(error.status)
      .json(new RpcFault(error.status, rpc, `${error.message}. ${error.hint}`, null, error.toProblem()).body());
  };
  app.use('/mcp', faults);
}
