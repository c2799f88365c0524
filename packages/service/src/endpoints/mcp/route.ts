import type { IncomingMessage, ServerResponse } from 'node:http';
import { SUPPORTED_PROTOCOL_VERSIONS } from '@modelcontextprotocol/sdk/types.js';
import { giveWay, withHint } from '@pindro/core';
import type { Access } from '../../keys/store.js';
import type { Guard } from '../../platform/gate.js';
import { presentable } from '../../platform/problems.js';
import type { Admission } from './admission.js';
import { readJson } from './body.js';
import type { HttpChannel } from './http-channel.js';
import { INVALID_REQUEST, LONGEST_ID, RpcFault, readMessage } from './message.js';
import { acceptsStream, sendJson, sendNothing } from './respond.js';
import type { Session } from './session.js';
import type { Sessions } from './sessions.js';
import { SseChannel } from './sse-channel.js';

interface Parts {
  guard: Guard;
  admission: Admission;
  sessions: Sessions;
}

/** A request to an endpoint, by somebody who may make it. */
interface Call {
  endpoint: string;
  access: Access;
  /** The largest message it takes, in bytes. */
  bodyLimit: number;
  request: IncomingMessage;
  response: ServerResponse;
  /** What stands after the question mark of its address. */
  query: string;
}
type Handler = (call: Call) => void | Promise<void>;

/** Answers a request that is for an endpoint. @returns whether it was */
export type McpListener = (request: IncomingMessage, response: ServerResponse) => boolean;

const AT = '/mcp/';
/** The only version of the protocol that has batches. */
const WITH_BATCHES = '2025-03-26';
const LARGEST_BATCH = 100;

/**
 * Every endpoint at `/mcp/NAME`: Streamable HTTP (MCP 2025-11-25, basic/transports), and the older HTTP+SSE at
 * `/mcp/NAME/sse`. It stands before Express, since every layer of a router is paid for with each call of a tool.
 */
export function mcpListener({ guard, admission, sessions }: Parts): McpListener {
  const bodyOf = ({ request, bodyLimit }: Call) => readJson(request, bodyLimit);
  const messageOf = async (call: Call) => readMessage(await bodyOf(call));
  const sessionOf = (call: Call) => {
    const id = sessionId(call.request);
    if (id === undefined)
      throw new RpcFault(
        400,
        INVALID_REQUEST,
        'The Mcp-Session-Id header is missing. Send an initialize request first, and return the ID from its response.',
      );
    return sessions.find(id, call.endpoint, call.access);
  };

  const post: Handler = async (call) => {
    const { endpoint, access, request, response } = call;
    const body = await bodyOf(call);
    // Requests that arrive together are answered in several turns of the event loop.
    await giveWay();
    if (Array.isArray(body) && body.length > 0) return takeBatch(call, body);
    const message = readMessage(body);
    const isRequest = 'method' in message && 'id' in message;
    const starts = isRequest && message.method === 'initialize';
    const id = sessionId(request);
    if (starts && id !== undefined)
      throw new RpcFault(400, INVALID_REQUEST, 'This session is already initialized.', message.id);
    const session = starts
      ? sessions.begin(endpoint, access)
      : id === undefined
        ? sessions.stateless(endpoint, access).session
        : sessions.find(id, endpoint, access);
    if (!isRequest) {
      sendNothing(response, 202);
      return session.take(message, request.headers);
    }
    refuseBusy(session, message.id);
    if (starts) response.setHeader('Mcp-Session-Id', session.id);
    (session.channel as HttpChannel).expect(message.id, request, response);
    session.take(message, request.headers);
    if (!starts) return;
    if (session.client.name) sessions.keep(session);
    else sessions.end(session);
  };

  /** Several messages at once, for clients of the one version that has batches (MCP 2025-03-26, basic). */
  const takeBatch = (call: Call, body: unknown[]) => {
    const { endpoint, access, request, response } = call;
    const id = sessionId(request);
    const session =
      id === undefined ? sessions.stateless(endpoint, access).session : sessions.find(id, endpoint, access);
    const version = request.headers['mcp-protocol-version'] ?? session.client.protocol;
    // One message of a batch that is none is refused with all of it.
    if (version !== WITH_BATCHES || session.client.protocol !== WITH_BATCHES) return void readMessage(body);
    if (body.length > LARGEST_BATCH)
      throw new RpcFault(
        400,
        INVALID_REQUEST,
        `A batch has ${body.length} messages, and the limit is ${LARGEST_BATCH}`,
      );
    const messages = body.map((one) => readMessage(one));
    const requests = messages.filter((one) => 'method' in one && 'id' in one) as {
      id: string | number;
      method: string;
    }[];
    const ids = requests.map((one) => one.id);
    if (requests.some(({ method }) => method === 'initialize'))
      throw new RpcFault(400, INVALID_REQUEST, '"initialize" cannot be part of a batch');
    if (new Set(ids).size < ids.length)
      throw new RpcFault(400, INVALID_REQUEST, 'Two requests of the batch have the same ID');
    for (const one of ids) refuseBusy(session, one);
    if (ids.length === 0) sendNothing(response, 202);
    else (session.channel as HttpChannel).expectBatch(ids, response);
    for (const one of messages) session.take(one, request.headers);
  };

  const get: Handler = (call) => {
    const { request, response } = call;
    const session = sessionOf(call);
    if (!acceptsStream(request)) throw new RpcFault(406, INVALID_REQUEST, 'Only text/event-stream is available here.');
    const after = request.headers['last-event-id'];
    const channel = session.channel as HttpChannel;
    const revived = !channel.listening && typeof after === 'string';
    channel.listen(response, typeof after === 'string' ? after : undefined);
    if (!revived) return session.remember();
    // What it was last told is not known any more; hearing of a change once too often does no harm.
    if (channel.listening) session.sayChanged();
  };

  const end: Handler = (call) => {
    sessions.end(sessionOf(call));
    sendNothing(call.response, 204);
  };

  // The older transport: a stream that says where to post, and answers that come over the stream.
  const openSse: Handler = ({ endpoint, access, response }) => {
    const channel = new SseChannel(response, (id) => `/mcp/${endpoint}/messages?session=${id}`);
    const session = sessions.begin(endpoint, access, channel);
    channel.open(session.id);
    session.remember();
    response.once('close', () => sessions.end(session));
  };
  const postSse: Handler = async (call) => {
    const { endpoint, access, request, response, query } = call;
    const message = await messageOf(call);
    const session = sessions.find(new URLSearchParams(query).get('session') ?? '', endpoint, access, 'sse');
    if ('id' in message && 'method' in message) refuseBusy(session, message.id);
    sendNothing(response, 202);
    session.take(message, request.headers);
  };

  const handlers: Record<string, Record<string, Handler>> = {
    '': { POST: post, GET: get, DELETE: end },
    sse: { GET: openSse },
    messages: { POST: postSse },
  };

  const handle = async (request: IncomingMessage, response: ServerResponse, to: Target) => {
    guard(request);
    const methods = handlers[to.part]!;
    const handler = methods[request.method ?? ''];
    if (!handler) {
      const allowed = Object.keys(methods).join(', ');
      response.setHeader('Allow', allowed);
      throw new RpcFault(405, INVALID_REQUEST, `Only ${allowed} is available here.`);
    }
    // Before the body is read: a stranger's megabytes are not worth parsing.
    const admitted = admission.admit(decodeURIComponent(to.name), request);
    if (request.method === 'POST' && !isJson(request))
      throw new RpcFault(415, INVALID_REQUEST, 'Send the message with Content-Type application/json.');
    await handler({ ...admitted, request, response, query: to.query });
  };

  const fail = (thrown: unknown, response: ServerResponse, { name }: Target) => {
    if (response.headersSent) return void response.destroy();
    if (thrown instanceof RpcFault) return sendJson(response, thrown.status, thrown.body());
    const error = presentable(thrown);
    admission.refused(name, error);
    if (error.status === 401) response.setHeader('WWW-Authenticate', 'Bearer realm="pindro"');
    const rpc = error.code === 'body_unreadable' ? -32700 : error.status >= 500 ? -32603 : INVALID_REQUEST;
    const fault = new RpcFault(error.status, rpc, withHint(error), null, error.toProblem());
    sendJson(response, error.status, fault.body());
  };

  return (request, response) => {
    const to = targetOf(request.url ?? '');
    if (!to || !Object.hasOwn(handlers, to.part)) return false;
    handle(request, response, to).catch((thrown: unknown) => fail(thrown, response, to));
    return true;
  };
}

/** What a request is for, cut out of its address. */
interface Target {
  name: string;
  part: string;
  query: string;
}

function targetOf(url: string): Target | null {
  if (!url.startsWith(AT)) return null;
  const mark = url.indexOf('?');
  const path = mark < 0 ? url : url.slice(0, mark);
  const slash = path.indexOf('/', AT.length);
  const name = path.slice(AT.length, slash < 0 ? undefined : slash);
  if (name === '') return null;
  return { name, part: slash < 0 ? '' : path.slice(slash + 1), query: mark < 0 ? '' : url.slice(mark + 1) };
}

const isJson = (request: IncomingMessage) => /^application\/json\s*(;|$)/i.test(request.headers['content-type'] ?? '');

/** The session that a request names, once its version is one that is spoken here. */
function sessionId(request: IncomingMessage): string | undefined {
  const version = request.headers['mcp-protocol-version'];
  if (typeof version === 'string' && !SUPPORTED_PROTOCOL_VERSIONS.includes(version)) {
    const known = SUPPORTED_PROTOCOL_VERSIONS.join(', ');
    throw new RpcFault(400, INVALID_REQUEST, `Protocol version ${version} is not supported. Supported: ${known}.`);
  }
  const id = request.headers['mcp-session-id'];
  // One that was given out here is far shorter; a longer one is looked up as what it is, unknown.
  return typeof id === 'string' ? id.slice(0, LONGEST_ID) : undefined;
}

function refuseBusy(session: Session, id: string | number): void {
  if (!session.busy(id)) return;
  const why = `A request with id ${JSON.stringify(id)} is still in progress. Give each request its own ID.`;
  throw new RpcFault(400, INVALID_REQUEST, why, id);
}
