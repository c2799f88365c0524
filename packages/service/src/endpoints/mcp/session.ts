import { createHash } from 'node:crypto';
import {
  ErrorCode,
  type JSONRPCMessage,
  type JSONRPCRequest,
  LATEST_PROTOCOL_VERSION,
  type RequestId,
  SUPPORTED_PROTOCOL_VERSIONS,
} from '@modelcontextprotocol/sdk/types.js';
import {
  type Audience,
  asPindroError,
  didYouMean,
  type FlowOutcome,
  iconsOf,
  isObject,
  type JsonObject,
  type LiveEvent,
  MOST_INPUTS,
  newRunId,
  PindroError,
  readTraceContext,
} from '@pindro/core';
import type { Access } from '../../keys/store.js';
import type { EndpointDocument } from '../document.js';
import type { ServedTool } from '../served.js';
import type { ToolCallRequest } from '../tool-call-request.js';
import type { Channel } from './channel.js';
import { LONGEST_ID, RpcFault } from './message.js';
import { asLog, LEVELS, type Level, partOf, sayProgress } from './progress.js';
import { failure, success, underWay, withReceipt } from './results.js';

/** What a client said of itself as it began. */
export interface ClientInfo {
  name: string;
  version: string;
  protocol: string;
}

/** What has happened in a session, for whoever looks at the endpoint. */
export type SessionEvent =
  | { kind: 'connected' | 'listed' | 'left' }
  | { kind: 'called'; tool: string; state: string; milliseconds: number; why?: string; run: string | null };

export interface SessionParts {
  document(): EndpointDocument;
  /** Instructions for the connecting model. */
  instructions(): string;
  /** The tools that this key may see. */
  tools(): readonly ServedTool[];
  call(request: ToolCallRequest): Promise<FlowOutcome>;
  /** Records a call that was let in and is refused before it begins. */
  refuse(request: Omit<ToolCallRequest, 'tool'>, tool: string, refusal: PindroError): void;
  /** Counts a call of the key. @throws key_busy */
  spend(): Promise<void>;
  follow(run: string, listener: (live: LiveEvent) => void): () => void;
  urlOf(run: string): string;
  /** Receives the outcome of a run for its caller. */
  outcomeOf(run: string): Promise<FlowOutcome>;
  happened(session: Session, what: SessionEvent): void;
  /** The result of a run that is done was kept from the client. */
  withheld(run: string): void;
  /** Audience of errors: callers of tools, or a builder who works through an assistant. */
  audience(): Audience;
  version: string;
}

/** The headers of a request that name a trace (W3C trace context). */
export type TraceHeaders = { readonly [name: string]: unknown };

/** `_meta` of a message comes before the headers; the two fields belong together. */
const contextOf = (meta: JsonObject, headers: TraceHeaders): [unknown, unknown] => {
  const { traceparent, tracestate } = 'traceparent' in meta ? (meta as TraceHeaders) : headers;
  return [traceparent, tracestate];
};

/** Tools in one page of a list. */
const PAGE = 250;
/** What runs and people know a session by: what a client presents stays between the two. */
export const shownIdOf = (id: string): string =>
  id === '' ? '' : createHash('sha256').update(id).digest('base64url').slice(0, 16);
const NOBODY: ClientInfo = { name: '', version: '', protocol: '2025-03-26' };

type Params = JsonObject;
const refuse = (why: string, code: number = ErrorCode.InvalidParams) => new RpcFault(200, code, why);
/** Tools by their names; lists are kept as long as nothing changes. */
const byName = new WeakMap<readonly ServedTool[], Map<string, ServedTool>>();
const asText = new WeakMap<readonly ServedTool[], string>();

/** Whose session it is, and over what. */
export interface SessionIdentity {
  id: string;
  endpoint: string;
  access: Access;
  channel: Channel;
  /** When it began, in milliseconds since the epoch; now if omitted. */
  since?: number | undefined;
}

/** One client's session on one endpoint, as the protocol has it (MCP 2025-11-25). It belongs to the key that opened it. */
export class Session {
  readonly since: number;
  lastUsed = Date.now();
  lists = 0;
  calls = 0;
  client: ClientInfo = NOBODY;
  readonly #running = new Map<RequestId, { stop: AbortController; tool: string; run: string }>();
  #level: Level | null = null;
  readonly #shownId: string;
  #listed = '';

  readonly id: string;
  /** May be renamed during the session. */
  endpoint: string;
  readonly access: Access;
  readonly channel: Channel;

  constructor(
    { id, endpoint, access, channel, since = Date.now() }: SessionIdentity,
    private readonly parts: SessionParts,
  ) {
    this.id = id;
    this.endpoint = endpoint;
    this.access = access;
    this.channel = channel;
    this.since = since;
    this.#shownId = shownIdOf(id);
  }

  /** Whether a request of that id is still being answered. */
  busy(id: RequestId): boolean {
    return this.#running.has(id);
  }

  /** The call that a request makes, as long as it is being answered. */
  callOf(id: RequestId): { tool: string; run: string } | null {
    const call = this.#running.get(id);
    return call?.run ? call : null;
  }

  /** The answer to a call from before the service was started again, once its run has one. */
  async answerLater(id: RequestId, tool: string, run: string): Promise<JSONRPCMessage> {
    const url = this.parts.urlOf(run);
    const served = this.parts.tools().find(({ name }) => name === tool);
    const outcome = await this.parts.outcomeOf(run);
    if (outcome.state === 'done' && served) return { jsonrpc: '2.0', id, result: this.#given(served, outcome) };
    const result =
      outcome.state === 'waiting' || outcome.state === 'running'
        ? underWay(outcome, url)
        : failure(
            outcome.error ?? new PindroError('tool_unknown', { tool, where: this.endpoint }).toRecord(),
            url,
            run,
            this.parts.audience(),
          );
    return { jsonrpc: '2.0', id, result };
  }

  /** Takes one message of the client; what is to be answered is answered over the channel. */
  take(message: JSONRPCMessage, headers: TraceHeaders): void {
    this.lastUsed = Date.now();
    if (!('method' in message)) return;
    if ('id' in message) void this.#answer(message, headers);
    else if (message.method === 'notifications/initialized') this.parts.happened(this, { kind: 'connected' });
    else if (message.method === 'notifications/cancelled') this.#cancel(message.params?.requestId);
  }

  async #answer({ id, method, params = {} }: JSONRPCRequest, headers: TraceHeaders): Promise<void> {
    const stop = new AbortController();
    this.#running.set(id, { stop, tool: '', run: '' });
    try {
      const result = await this.#dispatch(id, method, params as Params, headers, stop);
      if (!stop.signal.aborted) this.channel.answer(id, { jsonrpc: '2.0', id, result });
    } catch (thrown) {
      const { rpc, message } =
        thrown instanceof RpcFault ? thrown : refuse(asPindroError(thrown).message, ErrorCode.InternalError);
      this.channel.answer(id, { jsonrpc: '2.0', id, error: { code: rpc, message } });
    } finally {
      this.#running.delete(id);
    }
  }

  #dispatch(id: RequestId, method: string, params: Params, headers: TraceHeaders, stop: AbortController) {
    switch (method) {
      case 'tools/call':
        return this.#callTool(id, params, headers, stop);
      case 'tools/list':
        return this.#list(params);
      case 'initialize':
        return this.#initialize(params);
      case 'logging/setLevel':
        return this.#setLevel(params);
      case 'ping':
        return {};
      default:
        throw refuse(`Method not found: "${method}"`, ErrorCode.MethodNotFound);
    }
  }

  #initialize({ protocolVersion, clientInfo }: Params): JsonObject {
    if (typeof protocolVersion !== 'string')
      throw refuse('"params.protocolVersion" must be the protocol version of the client');
    if (!isObject(clientInfo) || typeof clientInfo.name !== 'string')
      throw refuse('"params.clientInfo" must have the name and version of the client');
    const protocol = SUPPORTED_PROTOCOL_VERSIONS.includes(protocolVersion) ? protocolVersion : LATEST_PROTOCOL_VERSION;
    this.client = {
      name: clientInfo.name.slice(0, 100),
      version: String(clientInfo.version ?? '').slice(0, 50),
      protocol,
    };
    const { name, title, icon } = this.parts.document();
    const instructions = this.parts.instructions();
    return {
      protocolVersion: protocol,
      capabilities: { tools: { listChanged: true }, logging: {} },
      serverInfo: { name, title: title || name, version: this.parts.version, ...(icon && { icons: iconsOf(icon) }) },
      ...(instructions && { instructions }),
    };
  }

  #setLevel({ level }: Params): JsonObject {
    if (!LEVELS.includes(level as Level)) throw refuse(`"params.level" must be one of ${LEVELS.join(', ')}`);
    this.#level = level as Level;
    return {};
  }

  /** One page of the tools; the cursor says where the next begins. */
  #list({ cursor }: Params): JsonObject {
    const tools = this.parts.tools();
    const start = cursor === undefined ? 0 : Number(Buffer.from(String(cursor), 'base64url').toString());
    if (!Number.isInteger(start) || start < 0 || (cursor !== undefined && start >= tools.length))
      throw refuse('The cursor is unknown. Start without one.');
    this.lists++;
    this.#listed = this.#listText();
    this.parts.happened(this, { kind: 'listed' });
    const page = tools.slice(start, start + PAGE).map((tool) => tool.sent);
    const next = start + PAGE;
    return {
      tools: page,
      ...(next < tools.length && { nextCursor: Buffer.from(String(next)).toString('base64url') }),
    };
  }

  /** Cancels a running call (basic/utilities/cancellation); unknown and completed requests are ignored. */
  #cancel(id: unknown): void {
    const call = this.#running.get(id as RequestId);
    if (!call) return;
    call.stop.abort(new PindroError('cancelled', { what: 'The call' }));
    this.channel.drop(id as RequestId);
  }

  async #callTool(id: RequestId, params: Params, headers: TraceHeaders, stop: AbortController): Promise<JsonObject> {
    const { name, arguments: given = {}, _meta } = params;
    if (typeof name !== 'string' || name.length > LONGEST_ID) throw refuse('"params.name" must be the name of a tool');
    if (!isObject(given)) throw refuse('"params.arguments" must be an object');
    const count = Object.keys(given).length;
    if (count > MOST_INPUTS) throw refuse(`There are ${count} arguments, and the limit is ${MOST_INPUTS}`);
    const meta = isObject(_meta) ? _meta : {};
    const trace = readTraceContext(...contextOf(meta, headers));
    const base = {
      ...{ given, access: this.access, session: this.#shownId, client: this.client.name, endpoint: this.endpoint },
      ...{ trace, stop },
    };
    const tool = this.#tool(name, base);
    if (String(meta.progressToken ?? '').length > LONGEST_ID) throw refuse('"_meta.progressToken" is too long');
    this.calls++;
    const start = performance.now();
    const run = newRunId();
    this.#running.set(id, { stop, tool: name, run });
    const letGo = this.#follow(run, id, tool, meta.progressToken);
    const request: ToolCallRequest = {
      ...base,
      tool,
      run,
    };
    const { result, run: recorded } = await this.#run(request, letGo);
    const why = result.isError ? String((result.content as JsonObject[])[0]?.text ?? '').split('\n')[0]! : undefined;
    this.parts.happened(this, {
      kind: 'called',
      tool: name,
      state: why === undefined ? 'done' : 'failed',
      milliseconds: performance.now() - start,
      run: recorded,
      ...(why !== undefined && { why }),
    });
    return result;
  }

  #tool(name: string, base: Omit<ToolCallRequest, 'tool' | 'run'>): ServedTool {
    const tools = this.parts.tools();
    let names = byName.get(tools);
    if (!names) byName.set(tools, (names = new Map(tools.map((tool) => [tool.name, tool]))));
    const tool = names.get(name);
    if (tool) return tool;
    const suggestion = didYouMean(name, [...names.keys()]);
    const details = { tool: name, endpoint: this.endpoint, offered: [...names.keys()].slice(0, 50) };
    const where = `endpoint "${this.endpoint}"`;
    const error = new PindroError('tool_unknown', { tool: name, where, suggestion }, { details });
    this.parts.refuse({ ...base, run: newRunId() }, name, error);
    throw refuse(`There is no tool "${name}" on endpoint "${this.endpoint}". ${suggestion}`);
  }

  /** Tells the client how far its call is, where it asked for that, and what happens, at the level it set. */
  #follow(run: string, id: RequestId, tool: ServedTool, token: unknown): () => void {
    const wantsProgress = typeof token === 'string' || typeof token === 'number';
    const level = this.#level;
    if (!wantsProgress && level === null) return () => {};
    const total = tool.steps;
    let settled = 0;
    let last = 0;
    /** Progress must increase. */
    const progressed = (progress: number, message: string) => {
      if (progress <= last) return;
      last = progress;
      tell('notifications/progress', {
        ...{ progressToken: token as string, progress, message },
        ...(progress <= total && { total }),
      });
    };
    const tell = (method: string, params: JsonObject) =>
      this.channel.tell({ jsonrpc: '2.0', method, params } as JSONRPCMessage, id);
    return this.parts.follow(run, (live) => {
      if (wantsProgress && live.kind === 'step' && live.state !== 'running') {
        if (live.state !== 'waiting') settled++;
        progressed(settled, `${live.path.replaceAll('_', ' ')}: ${live.state}`);
      }
      if (wantsProgress && live.kind === 'progress') progressed(settled + partOf(live), sayProgress(live));
      const log = level === null ? null : asLog(live);
      if (log && LEVELS.indexOf(log.level) >= LEVELS.indexOf(level!))
        tell('notifications/message', { level: log.level, logger: tool.name, data: log.text });
    });
  }

  /** @returns what is answered, and the run that shows it; null where there is none */
  async #run(request: ToolCallRequest, letGo: () => void): Promise<{ result: JsonObject; run: string | null }> {
    let run: string | null = null;
    const url = () => (run === null ? null : this.parts.urlOf(run));
    try {
      if (this.access.perMinute !== null) await this.parts.spend();
      const outcome = await this.parts.call(request);
      run = outcome.run || null;
      if (outcome.state === 'done') return { result: this.#given(request.tool, outcome), run };
      return outcome.state === 'waiting' || outcome.state === 'running'
        ? { result: underWay(outcome, url()!), run }
        : { result: withReceipt(failure(outcome.error!, url(), run, this.parts.audience()), outcome.receipt), run };
    } catch (error) {
      return { result: failure(asPindroError(error).toRecord(), url(), run, this.parts.audience()), run };
    } finally {
      letGo();
    }
  }

  /** Returns the result to send. Withholding it from the client is recorded at the run, because no span shows it. */
  #given(tool: ServedTool, { run, result, receipt }: FlowOutcome): JsonObject {
    try {
      return withReceipt(success(tool, result), receipt);
    } catch (error) {
      if (run) this.parts.withheld(run);
      throw error;
    }
  }

  #listText(): string {
    const tools = this.parts.tools();
    let text = asText.get(tools);
    if (text === undefined) asText.set(tools, (text = JSON.stringify(tools.map((tool) => tool.sent))));
    return text;
  }

  /** Tells the client when its list is another than the one it was last told of. */
  announce(): void {
    if (!this.channel.listening) return;
    const now = this.#listText();
    if (now === this.#listed) return;
    this.#listed = now;
    this.sayChanged();
  }

  sayChanged(): void {
    this.channel.tell({ jsonrpc: '2.0', method: 'notifications/tools/list_changed' });
  }

  /** Stores the list before a change. */
  remember(): void {
    this.#listed = this.#listText();
  }

  close(reason: PindroError): void {
    for (const { stop } of this.#running.values()) stop.abort(reason);
    this.channel.close();
    this.parts.happened(this, { kind: 'left' });
  }
}
