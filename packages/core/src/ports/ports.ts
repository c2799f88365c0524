import type { ErrorRecord } from '../errors/errors.js';
import type { Json, JsonObject, JsonSchema } from '../json/json.js';
import type { OnExchange } from '../trace/exchanges/exchange.js';
import type { JournalStore } from '../trace/journal/journal-store.js';
import type { Grant } from '../trace/receipts/grants.js';
import type { Masker } from '../trace/secrets/masking.js';
import type { TraceFields } from '../trace/spans/context.js';
import type { WatchPort } from '../trace/spans/events.js';
import type { Stage } from '../trace/spans/states.js';

/*
 * What the outside must provide for a flow to run. Every call is asynchronous and carries only JSON values, an abort
 * signal and an event sink, so that the engine runs unchanged in another thread or on another machine.
 */

export interface CallOptions {
  signal: AbortSignal;
}

export interface FetchRequest {
  method: string;
  url: string;
  headers: Record<string, string>;
  body: string | null;
  /** Set where `body` and the body of the answer are base64, because they may not be text. */
  binary?: 'body' | 'answer' | 'both';
  /** More bytes than this fail the request. */
  maxBytes: number;
}

export interface FetchAnswer {
  status: number;
  headers: Record<string, string>;
  /** The body as text; empty when it was handed over in pieces. */
  body: string;
}

/**
 * Sends one request. Rejects if no response arrives; any status is a response.
 * @param options `onPiece` receives the body piece by piece as it arrives, instead of in the answer
 */
export type FetchPort = (
  request: FetchRequest,
  options: CallOptions & { onPiece?: (piece: string) => void },
) => Promise<FetchAnswer>;

export type Comparison =
  | Json
  | { gt: Json }
  | { gte: Json }
  | { lt: Json }
  | { lte: Json }
  | { not: Json }
  | { in: Json[] }
  | { contains: string };
export type Where = Record<string, Comparison>;

/** Matches rows that fulfil all conditions of at least one alternative. No alternatives match every row. */
export type Filter = Where[];

/** One atomic operation on a table of the workspace. */
export type TableOperation =
  | { do: 'find'; table: string; where: Filter; sort: string | null; descending: boolean; limit: number }
  | { do: 'count'; table: string; where: Filter }
  | { do: 'add'; table: string; row: JsonObject; unless: TableCondition | null }
  /**
   * Updates matching rows atomically. With `late`, the values of `set` and `when` contain expressions that are
   * evaluated for each row inside the transaction, with the row as `row`. If `when` is false nothing is changed.
   */
  | { do: 'change'; table: string; where: Filter; set: JsonObject; late?: { when: string | null; scope: JsonObject } }
  | { do: 'remove'; table: string; where: Filter }
  /** Changes the row that has the same values in the key columns, or adds it. */
  | { do: 'upsert'; table: string; key: string[]; row: JsonObject };

/**
 * Rejects an addition if an aggregate over matching rows exceeds a number. Check and addition share a transaction.
 */
export interface TableCondition {
  /** A column to sum, or null to count rows. */
  sum: string | null;
  where: Where;
  over: number;
}

export interface TableAnswer {
  rows: JsonObject[];
  /** How many rows there are, or were touched. */
  count?: number;
  /** Whether an upsert added the row. */
  added?: boolean;
  /** Set when an addition was refused by its condition. */
  refused?: { found: number; over: number };
  /** Set when a change was refused: a row for which its condition does not hold. */
  unfit?: JsonObject;
}

export interface TablePort {
  /**
   * @param options.caller whose rows they are, where the table keeps callers apart
   * @param options.key `run/path/attempt`: a change that was made under it already is not made again, but answered as it was
   */
  run(operation: TableOperation, options: CallOptions & { caller: string; key: string }): Promise<TableAnswer>;
}

/** Who supplies an argument: the caller or model (default), the builder, or nobody. */
/** Source of the values of an argument or input: a tool of a server, a flow, or a column of a table. */
export type Lookup = {
  server?: string | undefined;
  tool?: string | undefined;
  flow?: string | undefined;
  table?: string | undefined;
  /** Of the tool, or input of the flow. */
  arguments?: JsonObject | undefined;
  /** Other fields to send under their own names. */
  with?: string[] | undefined;
  /** Dotted path to the list in the result. */
  items?: string | undefined;
  /** The field or column that holds the value, and the one that people read. */
  value?: string | undefined;
  label?: string | undefined;
};

export type ArgumentRule =
  | 'omit'
  | 'ask'
  /** Late: its expressions read what is only there when the tool is called. */
  | { set: Json; late?: true }
  | { ask: { description?: string | undefined; schema?: JsonSchema | undefined; values?: Lookup | undefined } };
/** Rules by argument, a top-level property of the tool's input schema. */
export type ArgumentRules = Record<string, ArgumentRule>;

/** A tool as its server describes it (MCP 2025-11-25, server/tools). */
export interface ToolDescription {
  name: string;
  title?: string;
  description?: string;
  inputSchema: JsonSchema;
  outputSchema?: JsonSchema;
  /** What the server says of the tool's effects (MCP tool annotations). */
  annotations?: JsonObject;
  /** Pictures for people, as MCP lists them. */
  icons?: JsonObject[];
  /** What the server adds for whoever knows it, passed on as it is. */
  _meta?: JsonObject;
  /** Whether it runs only as a task (MCP 2025-11-25, basic/utilities/tasks), which an ordinary call cannot begin. */
  taskOnly?: boolean;
}

export interface ToolResult {
  /** Content blocks of MCP, as they came. */
  content: JsonObject[];
  structuredContent?: JsonObject;
  isError: boolean;
  _meta?: JsonObject;
}

export interface ServerDescription {
  tools: ToolDescription[];
  /** Rules that stand on the server for every tool with such an argument. */
  rules: ArgumentRules;
  /** Tools on hold, with the reason. */
  held?: Record<string, string>;
  /** What it says to whoever connects. */
  instructions?: string;
  /** The findings in tools that are in use despite them, as text. */
  flagged?: Record<string, string>;
  /** Since when each tool is as it is, in milliseconds since the epoch, where it appeared or changed after it was attached. */
  since?: Record<string, number>;
  /** Where it is: its address, or its program. A server elsewhere under the same name is another one. */
  place?: string;
  /** Set when the server cannot be reached now; the tools are the ones last seen. */
  unreachable?: ErrorRecord;
}

/** Progress of a tool as reported by its server, with a total if known. */
export interface ToolProgress {
  progress: number;
  total?: number | undefined;
  message?: string | undefined;
}

/** A log message of a server during a tool call, with a level of RFC 5424. */
export interface ToolMessage {
  level: string;
  text: string;
}

export interface ToolServerPort {
  describe(server: string, options: CallOptions): Promise<ServerDescription>;
  call(
    server: string,
    tool: string,
    args: JsonObject,
    /** `credential`: sent instead of the server's own */
    options: CallOptions & {
      trace: TraceFields;
      idempotencyKey: string;
      credential?: string;
      /** How long the call may take, in milliseconds, where that was said. */
      limit?: number;
      /** Maximum age of a cached result, in milliseconds, for read-only tools. */
      fresh?: number;
      /** Told how far the server says it is. */
      onProgress?: (progress: ToolProgress) => void;
      /** Told what the server says while it works, where it is certain that it speaks of this call. */
      onSaid?: (said: ToolMessage) => void;
      /** Receives lines of a program's standard error that belong to this call. */
      onWrote?: (line: string) => void;
      /** Receives the exchanges of the call. */
      onExchange?: OnExchange;
    },
  ): Promise<ToolResult>;
}

/** Whose credential is sent with a call to a tool server: that of the workspace or of the caller. */
export const CREDENTIAL_OWNERS = ['workspace', 'caller'] as const;
export type CredentialOwner = (typeof CREDENTIAL_OWNERS)[number];

export interface FlowPort {
  /** When a flow was published, or its draft saved: what it uses was chosen then. In milliseconds since the epoch. */
  chosenAt?(name: string, stage: Stage): Promise<number | null>;
  /** The document of a flow at a stage. Throws `not_found` or `flow_not_published`. */
  load(
    name: string,
    stage: Stage,
    revision?: number,
  ): Promise<{
    document: Json;
    revision: number | null;
    /** Whether it changes nothing, as far as that is known. */
    reads?: boolean;
  }>;
}

/** A tool on an endpoint of this workspace. */
export interface Exposure {
  name: string;
  description: string;
  schema: JsonSchema;
  rules: ArgumentRules;
  target: { flow: string } | { server: string; tool: string; credential?: CredentialOwner };
}

export interface EndpointPort {
  exposures(endpoint: string, stage: Stage): Promise<Exposure[]>;
  /** What an endpoint says to whoever uses its tools. */
  instructions?(endpoint: string): Promise<string> | string;
}

export interface ModelConnection {
  name: string;
  dialect: string;
  /** Base address, without a trailing slash. */
  base: string;
  model: string;
  credential: string | null;
  /** Further credentials, which take turns with the first. */
  keys?: string[];
  /** Which connection is asked where this one cannot answer. */
  fallback?: string | null;
  settings: JsonObject;
}

export interface ModelPort {
  connection(name: string): Promise<ModelConnection>;
}

export interface MemoryPort {
  /**
   * The turns under a key. The lock is held until `save` or `release`, so that turns are sequential.
   * @param options.expires deletes what has not grown for this many milliseconds
   */
  open(key: string, options: CallOptions & { expires?: number }): Promise<Json[]>;
  save(key: string, turns: Json[]): Promise<void>;
  release(key: string): Promise<void>;
  /** The turns kept under a key, without the lock. */
  look?(key: string, expires?: number): Promise<Json[]>;
  /** The lock holder waits for somebody: other writers are rejected with this reason. Null: it continues. */
  hold?(key: string, what: string | null): void;
}

/** Secret values of a credential, and how to send them with a request. */
export interface RevealedSecret {
  headers: Record<string, string>;
  /** Query parameters to add. */
  query?: Record<string, string>;
  /** Value for `{name}` in the path of the address. */
  path?: Record<string, string>;
  secrets: string[];
}

/**
 * Adds parts of a credential to an address.
 * @param url the address
 * @param secret query parameters and parts of the path
 * @returns the address to call
 */
export function withQuery(url: string, { query = {}, path = {} }: Pick<RevealedSecret, 'query' | 'path'>): string {
  if (Object.keys(query).length === 0 && Object.keys(path).length === 0) return url;
  const whole = new URL(url);
  for (const [name, value] of Object.entries(path))
    whole.pathname = whole.pathname.replaceAll(
      new RegExp(`(?:\\{|%7B)${name.replaceAll(/[^\w-]/g, '')}(?:\\}|%7D)`, 'gi'),
      () => encodeURIComponent(value),
    );
  for (const [name, value] of Object.entries(query)) whole.searchParams.set(name, value);
  return whole.href;
}

export interface SecretPort {
  /**
   * @param use destination address
   * @throws credential_elsewhere if it is not allowed
   */
  reveal(name: string, use: { url: string }): Promise<RevealedSecret>;
  /** Masks what every run must not show, whatever it reveals; absent where that is done elsewhere. */
  readonly masker?: Masker;
}

export interface Mail {
  /** Address of the sender; the workspace's default if omitted. */
  from: string | null;
  to: string[];
  cc: string[];
  subject: string;
  text: string;
  html: string | null;
}

export interface MailPort {
  /** Hands a mail to the mail server. @returns the id it goes by. @throws mail_refused, address_unreachable */
  send(mail: Mail, options: CallOptions): Promise<{ id: string; refused?: string[] }>;
}

export interface ScriptRequest {
  code: string;
  /** What the script sees as `data`. */
  data: Json;
  /** Milliseconds and bytes that it may use. */
  time: number;
  memory: number;
}

export interface ScriptPort {
  /** Runs JavaScript with no way out: no files, no network. Callers take turns. @throws script_failed, script_limit */
  run(script: ScriptRequest, options: CallOptions & { caller: string }): Promise<{ value: Json; log: string[] }>;
}

export interface ApprovalRequest {
  run: string;
  path: string;
  flow: string;
  caller: string;
  title: string;
  message: string;
  /** Facts to decide by. */
  facts: JsonObject;
  /** When it expires, in milliseconds since the epoch, or null. */
  until: number | null;
  /** The tool that is to be called, where that is the question: the facts are what will be sent, and may be changed first. */
  tool?: string;
  /** What an answer may hold: the arguments of the tool, or what is asked for. */
  schema?: JsonSchema;
  /** Arguments that the builder set: nobody changes them. */
  fixed?: string[];
  /** Allowed approvers; anybody who may approve if omitted. */
  by?: 'people' | 'caller';
  /** Whether the one on whose behalf it happens may not approve it. */
  fourEyes?: boolean;
  /** Further scopes that an approval may cover; omitted if it covers the call only. */
  grants?: ApprovalGrants;
}

/** What an approval may cover, and for how long. */
export interface ApprovalGrants {
  /** What it covers unless the approver says otherwise. */
  default: Grant;
  allowed: Grant[];
  /** The longest time that it holds beyond this call, in milliseconds. */
  longest: number;
  /** Identifies what is covered: the place of the tool, its origin and schema, the caller, and the conversation. */
  keys: Record<Exclude<Grant, 'call'>, string>;
  origin: string;
}

export interface Decision {
  decision: 'approved' | 'refused' | 'expired';
  /** Who decided; empty when nobody did. */
  by: string;
  note: string;
  /** What is sent instead, or what was asked for. */
  value?: JsonObject;
  /** When it was decided, in milliseconds since the epoch. */
  at?: number;
  /** Scope of the approval; this call if omitted. */
  grant?: Grant;
  /** When an approval that covers more expires, in milliseconds since the epoch. */
  grantedUntil?: number;
}

export interface ApprovalPort {
  /** An approval that was given before and still covers this. @param keys of {@link ApprovalGrants} */
  standing?(keys: readonly string[]): Promise<Decision | null>;
  /** Asks once for each run and path, also when it is called again after a restart. Resolves when it is decided. */
  ask(request: ApprovalRequest, options: CallOptions): Promise<Decision>;
}

export interface SteppingPort {
  /** Resolves when a paused run may continue. */
  before(place: { run: string; path: string }, options: CallOptions): Promise<{ go: boolean }>;
}

export interface ClockPort {
  now(): Promise<number>;
  /** For durations and deadlines: a clock that never goes back. The same as {@link now} where there is none. */
  deadline?(): Promise<number>;
  /** IANA name of the workspace's time zone. */
  zone(): Promise<string>;
}

export interface Ports {
  fetch: FetchPort;
  tables: TablePort;
  toolServers: ToolServerPort;
  flows: FlowPort;
  endpoints: EndpointPort;
  models: ModelPort;
  memory: MemoryPort;
  secrets: SecretPort;
  mail: MailPort;
  scripts: ScriptPort;
  approvals: ApprovalPort;
  stepping: SteppingPort;
  clock: ClockPort;
  record: JournalStore;
  watch: WatchPort;
}

/** The time by which durations and deadlines are reckoned, in milliseconds since the epoch. */
export const deadlineNow = (clock: ClockPort): Promise<number> => clock.deadline?.() ?? clock.now();
