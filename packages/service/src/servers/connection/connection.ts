import type { Client } from '@modelcontextprotocol/sdk/client/index.js';
import type { RequestOptions } from '@modelcontextprotocol/sdk/shared/protocol.js';
import { DEFAULT_LIMITS, type ServerLimits, type Speaks } from '@pindro/contract';
import type { Json } from '@pindro/core';
import {
  type Exchange,
  humanDuration,
  type JsonObject,
  linkAbort,
  Masker,
  maskError,
  milliseconds,
  type OnExchange,
  orAborted,
  type PindroError,
  type RevealedSecret,
  type ToolDescription,
  type ToolMessage,
  type ToolProgress,
  type ToolResult,
  withQuery,
} from '@pindro/core';
import { z } from 'zod';
import { refusalIn } from '../../platform/reach/fetch-port.js';
import type { Outside, Way } from '../../platform/reach/outside.js';
import type { ProgramPermit } from '../../policy/programs.js';
import type { PartByPart } from '../attach/attach-stages.js';
import { explain } from '../attach/explain.js';
import { callResult, LEVELS, logMessage, toolList, toolShape } from '../attach/shapes.js';
import { CapturedMessages, capturing } from '../calling/captured-exchanges.js';
import { versionOf, wantedBy } from '../calling/reported-text.js';
import { inTime, LATE } from '../calling/timeout.js';
import { TRANSPORTS } from '../transports/index.js';
import type { TransportKind, TransportLog } from '../transports/transport.js';
import { boundedFetch } from './bounded-fetch.js';
import { newClient } from './client.js';
import { CallListeners } from './listeners.js';
import { ServerLog } from './log.js';

const MAX_TOOLS = 1000;
const LONGEST_INSTRUCTIONS = 20_000;
/** How long a server may take to answer for the first time where nobody said so, in milliseconds. */
export const CONNECT_LIMIT = milliseconds(DEFAULT_LIMITS.connect);
/** A call that says how far it is may take so long, in milliseconds. */
const LONGEST_CALL = 3600_000;
const LONGEST_WAIT = 2 ** 31 - 1;
/** Clocks may differ by so much, in milliseconds. */
const CLOCK = 50;

interface CallOptions {
  signal: AbortSignal;
  limit?: number | undefined;
  onProgress?: ((progress: ToolProgress) => void) | undefined;
  onSaid?: ((said: ToolMessage) => void) | undefined;
  onWrote?: ((line: string) => void) | undefined;
  onExchange?: OnExchange | undefined;
}

/** What is sent with a server, and its secret values. */
export type Revealed = RevealedSecret & {
  /** What credentials hold that a program is given, by their names. */
  values?: Record<string, string>;
  /** The way to the server, where it has one of its own. */
  network?: Way;
};

interface Options {
  name: string;
  /** Where it is; empty for a program. */
  url: string;
  /** Permits each start of its program; omitted for an address. */
  permit?: (() => Promise<ProgramPermit>) | undefined;
  /** How the server speaks. */
  speaks: Speaks;
  limits?: ServerLimits | undefined;
  /** May be slow, such as a new sign-in. Called for each connection. */
  reveal: () => Revealed | Promise<Revealed>;
  /** Told how it is tested, where it is. */
  parts?: PartByPart | undefined;
  /** Takes down what happens with it. */
  log?: ServerLog | undefined;
  /** The way to the server. */
  outside: Outside;
  /** Masks what every answer must not show. */
  below?: Masker | undefined;
  onToolsChanged?: () => void;
  /** A program was stopped because nobody used it. */
  onRest?: () => void;
  /** The server went away while nobody asked anything of it. */
  onLost?: (error?: Error) => void;
}

/** One connection to an external MCP server. Reconnects when the server forgot its session. */
export class ServerConnection {
  #client: Client | null = null;
  #connecting: Promise<Client> | null = null;
  /** What broke the stream, explained to the calls that were waiting on it. */
  #broken: unknown;
  /** How many requests wait on each connection. */
  readonly #underWay = new Map<Client, number>();
  readonly #listeners = new CallListeners();
  #hasSecrets = false;
  /** What the server says it wants, where it refused to let us in. */
  #wants = '';
  /** Why an answer was not taken. */
  #refused: PindroError | null = null;
  /** A server may echo secrets, so responses, errors and metadata are masked here. */
  #masker: Masker;
  readonly #kind: TransportKind;
  readonly #log: ServerLog;
  readonly #limits: { connect: number; call: number; idle: number; silence: number | null };
  #resting: NodeJS.Timeout | null = null;

  constructor(private readonly options: Options) {
    this.#masker = new Masker(options.below);
    this.#kind = TRANSPORTS[options.speaks];
    this.#log = options.log ?? new ServerLog();
    const { connect, call, idle, silence } = { ...DEFAULT_LIMITS, ...options.limits };
    // A timer cannot wait longer.
    const wait = (duration: string) => Math.min(milliseconds(duration), LONGEST_WAIT);
    this.#limits = {
      ...{ connect: wait(connect), call: wait(call), idle: wait(idle) },
      silence: silence === undefined ? null : wait(silence),
    };
  }

  /** Whether a secret is sent. */
  hasSecrets(): boolean {
    return this.#hasSecrets;
  }

  /** Whether there is a connection now. */
  isOpen(): boolean {
    return this.#client !== null;
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
      const page = await this.#request({ method: 'tools/list', params }, toolList, signal, {
        timeout: this.#limits.connect,
      });
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

  /** @param limit timeout in milliseconds; without one, as long as the server reports progress */
  async call(
    tool: string,
    args: JsonObject,
    meta: JsonObject,
    { signal, limit, onProgress, onSaid, onWrote, onExchange }: CallOptions,
  ): Promise<ToolResult> {
    const request = { method: 'tools/call', params: { name: tool, arguments: args, _meta: meta } };
    const told = (progress: ToolProgress) => onProgress?.(this.#masker.record(progress));
    const { call, silence } = this.#limits;
    const isExtended = limit === undefined || silence !== null;
    const most = limit ?? LONGEST_CALL;
    const extended = isExtended && { resetTimeoutOnProgress: true, maxTotalTimeout: most };
    const timeout = Math.min(silence ?? limit ?? call, most);
    const options = { ...extended, timeout, ...(onProgress || isExtended ? { onprogress: told } : {}) };
    // What is revealed for this connection alone is known here alone.
    const captureExchange = onExchange && ((exchange: Exchange) => onExchange(exchange, this.#masker));
    const isProgram = this.options.permit !== undefined;
    const result = await this.#listeners.during({ onSaid, onWrote }, isProgram, () =>
      capturing(captureExchange, () => this.#request(request, callResult, signal, options, tool)),
    );
    return {
      content: result.content as JsonObject[],
      isError: result.isError,
      ...(result.structuredContent && { structuredContent: result.structuredContent as JsonObject }),
      ...(result._meta && { _meta: result._meta as JsonObject }),
    };
  }

  /** The next call reconnects; active calls finish, and a connection attempt is abandoned. */
  retire(): void {
    const client = this.#client;
    this.#connecting = null;
    this.#rest(false);
    if (client) this.#leave(client);
  }

  /** Also what is just being connected is given up: it has begun with what held before. */
  async close(): Promise<void> {
    const all = new Set([...this.#underWay.keys(), ...(this.#client ? [this.#client] : [])]);
    this.#client = null;
    this.#connecting = null;
    this.#rest(false);
    await Promise.all([...all].map((client) => client.close().catch(() => {})));
  }

  async #request<T extends z.ZodType>(
    request: { method: string; params: Record<string, unknown> },
    shape: T,
    signal: AbortSignal,
    options: RequestOptions & { timeout: number },
    tool = request.method,
  ): Promise<z.output<T>> {
    for (let attempt = 1; ; attempt++) {
      const isFresh = this.#client === null;
      const client = await this.#connect(signal);
      const begun = performance.now();
      this.#rest(false);
      this.#underWay.set(client, (this.#underWay.get(client) ?? 0) + 1);
      // The client library never releases a signal, and runs are long.
      const linked = linkAbort(signal);
      try {
        const answer = await client.request(request, shape, {
          ...options,
          signal: linked.signal,
        });
        return this.#masker.json(answer as Json) as z.output<T>;
      } catch (error) {
        if (signal.aborted) throw signal.reason;
        const isLate = performance.now() - begun >= options.timeout - CLOCK;
        const explained = this.#explain(error, tool, options.timeout, { isLate, isGone: this.#client !== client });
        const isForgotten = this.#kind.statusOf(error) === 404;
        const isStale = !isFresh && explained.code === 'server_unreachable';
        // A failed call does not affect others on the same connection.
        if (isForgotten || explained.code === 'server_unreachable') this.#leave(client);
        if (attempt > 1 || !(isForgotten || isStale)) throw explained;
      } finally {
        linked.release();
        this.#ended(client);
      }
    }
  }

  /** The next call reconnects; active calls on the connection finish. */
  #leave(client: Client): void {
    if (this.#client === client) this.#client = null;
    if (!this.#underWay.has(client)) void client.close().catch(() => {});
  }

  #ended(client: Client): void {
    const left = (this.#underWay.get(client) ?? 1) - 1;
    if (left > 0) return void this.#underWay.set(client, left);
    this.#underWay.delete(client);
    if (this.#client !== client) void client.close().catch(() => {});
    else this.#rest(true);
  }

  /** A program that nobody uses is stopped after a while; it is started again when it is needed. */
  #rest(soon: boolean): void {
    if (this.#resting) clearTimeout(this.#resting);
    this.#resting = null;
    if (!soon || !this.options.permit) return;
    this.#resting = setTimeout(() => {
      const client = this.#client;
      if (!client || this.#underWay.has(client)) return;
      this.#log.add('pindro', `stopped after ${humanDuration(this.#limits.idle)} without use`);
      this.#leave(client);
      this.options.onRest?.();
    }, this.#limits.idle).unref();
  }

  #connect(signal: AbortSignal): Promise<Client> {
    if (this.#client) return Promise.resolve(this.#client);
    this.#connecting ??= this.#open();
    return orAborted(this.#connecting, signal);
  }

  /** Connects. If that is abandoned, waiting callers get the next connection. */
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
    const client = newClient();
    // Before anything is decrypted for it.
    const permit = (await this.options.permit?.()) ?? null;
    const revealed = await this.options.reveal();
    for (const secret of revealed.secrets) this.#masker.add(secret);
    this.#hasSecrets = revealed.secrets.length > 0;
    const messages = this.#kind.repliesElsewhere ? new CapturedMessages() : null;
    const bounded = boundedFetch(
      this.options.outside,
      this.options.name,
      (error) => {
        this.#refused = error;
      },
      revealed.network,
      messages,
    );
    const transport = this.#kind.open({
      server: this.options.name,
      url: this.options.url,
      permit,
      headers: revealed.headers,
      values: revealed.values ?? {},
      log: this.#masked(),
      started: (says) => {
        this.options.parts?.done('program', says);
        this.options.parts?.begin('speak');
      },
      refused: (error) => {
        // Active calls fail when the program exits.
        if (error.code !== 'program_ended' || this.#client !== client) this.#refused = error;
      },
      // Each request carries it, also to an address that the server named itself.
      fetch: async (url, init) => {
        const response = await bounded(withQuery(String(url), revealed), init);
        const { status } = response;
        this.options.parts?.done('reach', `${status < 400 ? 'it responds' : 'it responds,'} with status ${status}`);
        this.options.parts?.begin('speak');
        if (response.status === 401 || response.status === 403) this.#wants = await wantedBy(response);
        return response;
      },
      onQuiet: () => {
        if (this.#client !== client) return;
        this.#leave(client);
        this.options.onLost?.();
      },
    });
    const spoken = versionOf(transport);
    transport.onerror = (error) => {
      if (this.#client !== client || !this.#kind.isLost(error)) return;
      this.#broken = error;
      this.#log.add('pindro', this.#masker.text(`connection lost: ${error.message}`), 'warning');
      this.#client = null;
      this.options.onLost?.(error);
      void client.close().catch(() => {});
    };
    client.setNotificationHandler(
      z.looseObject({ method: z.literal('notifications/message'), params: logMessage }),
      ({ params }: { params: z.output<typeof logMessage> }) => {
        const data = typeof params.data === 'string' ? params.data : JSON.stringify(params.data ?? '');
        const text = this.#masker.text(params.logger ? `${params.logger}: ${data}` : data);
        this.#log.add('server', text, LEVELS[params.level] ?? 'info');
        this.#listeners.said(params.level, text);
      },
    );
    client.setNotificationHandler(z.looseObject({ method: z.literal('notifications/tools/list_changed') }), () =>
      this.options.onToolsChanged?.(),
    );
    try {
      await inTime(client.connect(transport, { timeout: this.#limits.connect }), this.#limits.connect);
    } catch (error) {
      await client.close().catch(() => {});
      const explained = this.#explain(error, 'initialize', this.#limits.connect, { isLate: true, isGone: true });
      this.#log.add('pindro', `connection failed: ${explained.message}`, 'error');
      throw explained;
    }
    messages?.follow(transport);
    const { name = 'a server', version = '' } = client.getServerVersion() ?? {};
    this.options.parts?.done('speak', this.#masker.text(`${name} ${version}, with MCP ${spoken()}`));
    this.options.parts?.begin('allow');
    this.#log.add('pindro', this.#masker.text(`connected to ${name} ${version}`.trim()));
    return client;
  }

  #masked(): TransportLog {
    return {
      wrote: (line, level = 'info') => {
        const text = this.#masker.text(line);
        this.#log.add('program', text, level);
        this.#listeners.wrote(text);
      },
      note: (text, level = 'info') => this.#log.add('pindro', this.#masker.text(text), level),
      lastWords: () => this.#log.lastWords(),
    };
  }

  #explain(error: unknown, tool: string, limit: number, how: { isLate: boolean; isGone: boolean }): PindroError {
    const refused = refusalIn(error) ?? this.#refused;
    this.#refused = null;
    if (refused) return maskError(refused, this.#masker);
    const { name: server, url } = this.options;
    const status = this.#kind.statusOf(error);
    const wants = this.#masker.text(this.#wants);
    this.#wants = '';
    const around = {
      ...{ server, url: url || server, tool, limit, status, wants },
      ...{ broken: this.#broken, masker: this.#masker },
    };
    return maskError(explain(error === LATE ? 'late' : error, { ...around, ...how }), this.#masker);
  }
}
