import { Server } from '@modelcontextprotocol/sdk/server/index.js';
import {
  ErrorCode,
  type JSONRPCMessage,
  type JSONRPCRequest,
  ListToolsRequestSchema,
  type RequestId,
} from '@modelcontextprotocol/sdk/types.js';
import { AjvJsonSchemaValidator } from '@modelcontextprotocol/sdk/validation/ajv';
import {
  asPindroError,
  didYouMean,
  type ErrorRecord,
  type FlowOutcome,
  failureText,
  isObject,
  type Json,
  type JsonObject,
  PindroError,
  readTraceparent,
} from '@pindro/core';
import type { Request, Response } from 'express';
import type { Access } from '../../keys/store.js';
import type { ToolCallRequest } from '../call.js';
import type { EndpointDocument } from '../document.js';
import type { ServedTool } from '../store.js';
import { RpcFault } from './message.js';
import { HttpTransport } from './transport.js';

export interface SessionParts {
  document(): EndpointDocument;
  tools(): ServedTool[];
  call(request: ToolCallRequest): Promise<FlowOutcome>;
  urlOf(run: string): string;
  /** Tells whoever watches the terminal about a call. */
  told(call: { tool: string; state: string; milliseconds: number; why?: string }): void;
  onClient(): void;
  version: string;
}

// One validator for all sessions: each would otherwise build its own, at 27 KB apiece.
const validator = new AjvJsonSchemaValidator();

/** One client's session on one endpoint. It belongs to the key that opened it. */
export class Session {
  readonly transport: HttpTransport;
  readonly #server: Server;
  readonly since = Date.now();
  lastUsed = Date.now();

  constructor(
    readonly id: string,
    readonly endpoint: string,
    readonly access: Access,
    private readonly parts: SessionParts,
  ) {
    this.transport = new HttpTransport(id);
    const { title, instructions } = parts.document();
    this.#server = new Server(
      { name: endpoint, title: title || endpoint, version: parts.version },
      {
        capabilities: { tools: { listChanged: true } },
        jsonSchemaValidator: validator,
        ...(instructions && { instructions }),
      },
    );
    this.#server.oninitialized = () => parts.onClient();
    this.#server.setRequestHandler(ListToolsRequestSchema, () => ({ tools: this.offered() as never }));
  }

  /**
   * Takes one message of the client. Calls of tools are answered here, without the detour through the SDK's server,
   * which would hold each request and result against its schemas once more; everything else is the SDK's.
   */
  take(message: JSONRPCMessage, request: Request, response: Response): void {
    if ('method' in message && message.method === 'tools/call' && 'id' in message) {
      this.transport.post(message, request, response, () => void this.#answer(message, request));
    } else {
      this.transport.post(message, request, response);
      if ('method' in message && message.method === 'notifications/cancelled') this.#cancel(message.params?.requestId);
    }
  }

  readonly #calls = new Map<RequestId, AbortController>();

  async #answer(message: JSONRPCRequest, request: Request): Promise<void> {
    const { id, params = {} } = message;
    const stop = new AbortController();
    this.#calls.set(id, stop);
    try {
      const result = await this.#callTool(params as JsonObject, request, stop.signal);
      if (!stop.signal.aborted) await this.transport.send({ jsonrpc: '2.0', id, result });
    } catch (error) {
      const fault =
        error instanceof RpcFault ? error : new RpcFault(200, ErrorCode.InternalError, asPindroError(error).message);
      await this.transport.send({ jsonrpc: '2.0', id, error: { code: fault.rpc, message: fault.message } });
    } finally {
      this.#calls.delete(id);
    }
  }

  /** Cancels a call under way (basic/utilities/cancellation); a request that is unknown or answered is none. */
  #cancel(id: unknown): void {
    const stop = this.#calls.get(id as RequestId);
    if (!stop) return;
    stop.abort(new PindroError('cancelled', { what: 'The call' }));
    this.transport.drop(id as RequestId);
  }

  async #callTool(params: JsonObject, request: Request, signal: AbortSignal): Promise<JsonObject> {
    const { name, arguments: given = {}, _meta } = params;
    if (typeof name !== 'string')
      throw new RpcFault(200, ErrorCode.InvalidParams, '"params.name" must be the name of a tool');
    if (!isObject(given)) throw new RpcFault(200, ErrorCode.InvalidParams, '"params.arguments" must be an object');
    const tool = this.parts.tools().find((candidate) => candidate.name === name);
    if (!tool) {
      const names = this.parts.tools().map((candidate) => candidate.name);
      throw new RpcFault(
        200,
        ErrorCode.InvalidParams,
        `There is no tool "${name}" on endpoint "${this.endpoint}". ${didYouMean(name, names)}`,
      );
    }
    const start = performance.now();
    const trace = readTraceparent((isObject(_meta) ? _meta.traceparent : undefined) ?? request.headers.traceparent);
    const result = await this.#call({ tool, given, access: this.access, session: this.id, trace, signal });
    const why = result.isError ? String((result.content as JsonObject[])[0]?.text ?? '').split('\n')[0]! : undefined;
    this.parts.told({
      tool: name,
      state: why === undefined ? 'done' : 'failed',
      milliseconds: performance.now() - start,
      ...(why !== undefined && { why }),
    });
    return result;
  }

  async open(): Promise<void> {
    await this.#server.connect(this.transport);
  }

  close(): Promise<void> {
    return this.#server.close();
  }

  client(): { name: string; version: string } | null {
    const info = this.#server.getClientVersion();
    return info ? { name: info.name, version: info.version } : null;
  }

  /** The tool list as it is sent. */
  offered(): JsonObject[] {
    return this.parts.tools().map((tool) => ({
      name: tool.name,
      ...(tool.title && { title: tool.title }),
      description: tool.description,
      inputSchema: tool.seen,
    }));
  }

  #told = '';
  /** Tells the client when its list is another than the one it was last told of. */
  async announce(): Promise<void> {
    if (!this.transport.listening) return;
    const now = JSON.stringify(this.offered());
    if (now === this.#told) return;
    this.#told = now;
    await this.#server.sendToolListChanged();
  }

  /** Remembers the list as it stands before something changes. */
  remember(): void {
    this.#told = JSON.stringify(this.offered());
  }

  async #call(request: ToolCallRequest): Promise<JsonObject> {
    try {
      const outcome = await this.parts.call(request);
      return outcome.state === 'done'
        ? success(request.tool, outcome.result)
        : outcome.state === 'waiting' || outcome.state === 'running'
          ? underWay(outcome, this.parts.urlOf(outcome.run))
          : failure(outcome.error!, this.parts.urlOf(outcome.run), outcome.run);
    } catch (error) {
      return failure(asPindroError(error).toRecord(), null, null);
    }
  }
}

/** A result as MCP carries it (server/tools): text for the model, and the same as data where it is an object. */
function success(tool: ServedTool, result: Json): JsonObject {
  if ('server' in tool.target && isObject(result)) {
    return { content: result.content ?? [], ...(isObject(result.data) && { structuredContent: result.data }) };
  }
  const text = typeof result === 'string' ? result : JSON.stringify(result);
  return { content: [{ type: 'text', text }], ...(isObject(result) && { structuredContent: result }) };
}

/** The run waits for somebody or a time: the client is told at once, and where it can be seen. */
function underWay({ run, state, waitsFor }: FlowOutcome, url: string): JsonObject {
  const waits_for = waitsFor?.what ?? 'It goes on by itself';
  return {
    content: [{ type: 'text', text: `It is not done yet. ${waits_for}.\nRun: ${url}` }],
    structuredContent: { run, state, waits_for },
    _meta: { 'pindro/run': run },
  };
}

/** An error that a model can read and mend, with where a person can see more. */
function failure(error: ErrorRecord, url: string | null, run: string | null): JsonObject {
  const text = `${failureText(error)}${url ? `\nRun: ${url}` : ''}`;
  return {
    content: [{ type: 'text', text }],
    isError: true,
    _meta: { 'pindro/code': error.code, ...(run && { 'pindro/run': run }) },
  };
}
