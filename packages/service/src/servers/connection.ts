import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport, StreamableHTTPError } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { ErrorCode, McpError } from '@modelcontextprotocol/sdk/types.js';
import {
  isObject,
  type Json,
  type JsonObject,
  Masker,
  maskError,
  orAborted,
  PindroError,
  type RevealedSecret,
  type ToolDescription,
  type ToolResult,
} from '@pindro/core';
import { z } from 'zod';
import { refusalIn } from '../platform/reach/fetch-port.js';
import type { Outside } from '../platform/reach/outside.js';
import { networkCode, neverReached, reasonOf } from '../platform/reason.js';
import { boundedFetch } from './bounded-fetch.js';

/*
 * Only as much of the protocol's shapes as is used, so that one odd tool does not cost the whole list: the SDK's own
 * schemas refuse a list for one invalid output schema.
 */
const object = z.custom<JsonObject>(isObject);
const toolList = z.looseObject({ tools: z.array(z.unknown()), nextCursor: z.string().optional() });
const toolShape = z.object({
  name: z.string(),
  title: z.string().optional().catch(undefined),
  description: z.string().optional().catch(undefined),
  inputSchema: object.catch({ type: 'object' }),
  outputSchema: object.optional().catch(undefined),
  _meta: object.optional().catch(undefined),
  execution: object.optional().catch(undefined),
  annotations: object.optional().catch(undefined),
  icons: z.array(object).max(8).optional().catch(undefined),
});
const callResult = z.looseObject({
  content: z.array(object).default([]),
  structuredContent: object.optional().catch(undefined),
  isError: z.boolean().default(false),
  _meta: object.optional().catch(undefined),
});

const MAX_TOOLS = 1000;
const LONGEST_INSTRUCTIONS = 20_000;
export const CONNECT_LIMIT = 10_000;
const CALL_LIMIT = 60_000;

interface Options {
  name: string;
  url: string;
  /** What goes along with each request, and what of it must never be shown. */
  reveal: () => RevealedSecret;
  /** The way to the server. */
  outside: Outside;
  /** Masks what every answer must not show. */
  below?: Masker | undefined;
  onToolsChanged?: () => void;
  /** The server went away while nobody asked anything of it. */
  onLost?: () => void;
}

/** One connection to somebody else's MCP server over Streamable HTTP. Made anew when the server forgot its session. */
export class ServerConnection {
  #client: Client | null = null;
  #connecting: Promise<Client> | null = null;
  /** What broke the stream, explained to the calls that were waiting on it. */
  #broken: unknown;
  /** Why an answer was not taken. */
  #refused: PindroError | null = null;
  /** A server may echo what it was sent: nothing of it comes past here, in answers, errors, or what it says of itself. */
  #masker: Masker;

  constructor(private readonly options: Options) {
    this.#masker = new Masker(options.below);
  }

  /** What the server calls itself. */
  about(): string {
    const info = this.#client?.getServerVersion();
    return info ? this.#masker.text(`${info.title ?? info.name} ${info.version}`.trim()) : '';
  }

  /** What the server says to whoever connects. */
  instructions(): string {
    return this.#masker.text(this.#client?.getInstructions() ?? '').slice(0, LONGEST_INSTRUCTIONS);
  }

  async tools(signal: AbortSignal): Promise<ToolDescription[]> {
    const tools: ToolDescription[] = [];
    let cursor: string | undefined;
    do {
      const params = cursor === undefined ? {} : { cursor };
      const page = await this.#request({ method: 'tools/list', params }, toolList, signal, CONNECT_LIMIT);
      for (const candidate of page.tools) {
        const parsed = toolShape.safeParse(candidate);
        if (!parsed.success) continue;
        const { execution, ...tool } = parsed.data;
        const taskOnly = execution?.taskSupport === 'required';
        tools.push({ ...tool, ...(taskOnly && { taskOnly }) } as ToolDescription);
      }
      cursor = page.nextCursor;
    } while (cursor !== undefined && tools.length < MAX_TOOLS);
    return tools;
  }

  /** @param limit how long it may take, in milliseconds */
  async call(
    tool: string,
    args: JsonObject,
    meta: JsonObject,
    signal: AbortSignal,
    limit = CALL_LIMIT,
  ): Promise<ToolResult> {
    const request = { method: 'tools/call', params: { name: tool, arguments: args, _meta: meta } };
    const result = await this.#request(request, callResult, signal, limit, tool);
    return {
      content: result.content as JsonObject[],
      isError: result.isError,
      ...(result.structuredContent && { structuredContent: result.structuredContent as JsonObject }),
      ...(result._meta && { _meta: result._meta as JsonObject }),
    };
  }

  /** Also what is just being connected is given up: it has begun with what held before. */
  async close(): Promise<void> {
    const client = this.#client;
    this.#client = null;
    this.#connecting = null;
    await client?.close().catch(() => {});
  }

  async #request<T extends z.ZodType>(
    request: { method: string; params: Record<string, unknown> },
    shape: T,
    signal: AbortSignal,
    limit: number,
    tool = request.method,
  ): Promise<z.output<T>> {
    for (let attempt = 1; ; attempt++) {
      const fresh = this.#client === null;
      const client = await this.#connect(signal);
      try {
        const answer = await client.request(request, shape as never, { signal, timeout: limit });
        return this.#masker.json(answer as never) as z.output<T>;
      } catch (error) {
        if (signal.aborted) throw signal.reason;
        const explained = this.#explain(error, tool, limit);
        const forgotten = error instanceof StreamableHTTPError && error.code === 404;
        const stale = !fresh && explained.code === 'server_unreachable';
        if (explained.code !== 'tool_reported_error' && explained.code !== 'timed_out') await this.close();
        if (attempt > 1 || !(forgotten || stale)) throw explained;
      }
    }
  }

  #connect(signal: AbortSignal): Promise<Client> {
    if (this.#client) return Promise.resolve(this.#client);
    this.#connecting ??= this.#open();
    return orAborted(this.#connecting, signal);
  }

  /** Connects. When that was given up meanwhile, whoever waits for it gets the connection that came after. */
  #open(): Promise<Client> {
    const opening: Promise<Client> = this.#begin().then(
      async (client) => {
        if (this.#connecting === opening) {
          this.#connecting = null;
          this.#client = client;
          return client;
        }
        await client.close().catch(() => {});
        return this.#client ?? (this.#connecting ??= this.#open());
      },
      (error) => {
        if (this.#connecting === opening) this.#connecting = null;
        throw error;
      },
    );
    return opening;
  }

  async #begin(): Promise<Client> {
    const client = new Client({ name: 'pindro', version: '0.1.0' });
    const { headers, secrets } = this.options.reveal();
    for (const secret of secrets) this.#masker.add(secret);
    const transport = new StreamableHTTPClientTransport(new URL(this.options.url), {
      fetch: boundedFetch(this.options.outside, this.options.name, (error) => {
        this.#refused = error;
      }),
      requestInit: { headers },
      // Reconnecting is done here, where it is known what was under way.
      reconnectionOptions: {
        maxRetries: 0,
        initialReconnectionDelay: 1000,
        maxReconnectionDelay: 1000,
        reconnectionDelayGrowFactor: 1,
      },
    });
    transport.onerror = (error) => {
      if (
        this.#client !== client ||
        !/stream disconnected|terminated|fetch failed/i.test(`${error.message} ${reasonOf(error)}`)
      )
        return;
      this.#broken = error;
      this.#client = null;
      this.options.onLost?.();
      void client.close().catch(() => {});
    };
    client.setNotificationHandler(
      z.looseObject({ method: z.literal('notifications/tools/list_changed') }) as never,
      () => this.options.onToolsChanged?.(),
    );
    try {
      await client.connect(transport as never, { timeout: CONNECT_LIMIT });
    } catch (error) {
      await client.close().catch(() => {});
      throw this.#explain(error, 'initialize', CONNECT_LIMIT);
    }
    return client;
  }

  #explain(error: unknown, tool: string, limit: number): PindroError {
    return maskError(this.#inWords(error, tool, limit), this.#masker);
  }

  #inWords(error: unknown, tool: string, limit: number): PindroError {
    const refused = refusalIn(error) ?? this.#refused;
    this.#refused = null;
    if (refused) return refused;
    const { name: server, url } = this.options;
    const details = { server, address: url, ...(tool !== 'initialize' && { tool }) };
    const extra = { cause: error, details };
    const status = error instanceof StreamableHTTPError ? error.code : undefined;
    if (status === 401 || status === 403 || /unauthorized/i.test((error as Error)?.name ?? ''))
      return new PindroError('server_wants_key', { server, status: status ?? 401 }, extra);
    if (status === 404 && tool !== 'initialize') return new PindroError('server_lost', { server, tool }, extra);
    if (error instanceof McpError && error.code === ErrorCode.RequestTimeout)
      return new PindroError(
        'timed_out',
        { what: tool === 'initialize' ? `Tool server "${server}"` : `${tool} of ${server}`, limit: `${limit / 1000}s` },
        extra,
      );
    if (error instanceof McpError && error.code === ErrorCode.ConnectionClosed)
      return new PindroError('server_lost', { server, tool }, { ...extra, cause: this.#broken });
    if (error instanceof McpError)
      return new PindroError(
        'tool_reported_error',
        { tool: `${server}.${tool}`, why: error.message.replace(/^MCP error -?\d+: /, '') },
        { ...extra, details: error.data === undefined ? details : { ...details, data: error.data as Json } },
      );
    if (neverReached(error)) return new PindroError('server_unreachable', { server, why: reasonOf(error) }, extra);
    if (networkCode(error) || /terminated/.test(reasonOf(error)))
      return tool === 'initialize'
        ? new PindroError('server_unreachable', { server, why: reasonOf(error) }, extra)
        : new PindroError('server_lost', { server, tool }, extra);
    // A request that failed without a code never left, for example because of its port.
    if ((error as Error)?.message === 'fetch failed')
      return new PindroError('server_unreachable', { server, why: reasonOf(error) }, extra);
    const why = status ? `it answered ${status}` : notMcp(error, this.#masker);
    return new PindroError('server_not_mcp', { address: url, why }, extra);
  }
}

function notMcp(error: unknown, masker: Masker): string {
  const text = masker.text(error instanceof Error ? error.message : String(error));
  if (/content type/i.test(text)) return text.replace(/^.*content type:?\s*/i, 'it answered with content type ');
  if (/JSON|Unexpected token/.test(text)) return 'it answered with something that is not JSON';
  if (error instanceof z.ZodError || /invalid|ZodError/i.test(text)) return 'its answer does not follow the protocol';
  return text.split('\n')[0]!.slice(0, 200);
}
