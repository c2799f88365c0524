import {
  type Caller,
  inferLookup,
  inputSchema,
  isObject,
  type Json,
  type JsonObject,
  type LookedUp,
  type Lookup,
  lookupSchema,
  newSpanId,
  newTraceId,
  ownOf,
  PindroError,
  resultText,
  traceFields,
  valuesIn,
} from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { Runner } from '../runs/runner.js';
import type { ServerStore } from '../servers/store.js';
import type { TableStore } from '../tables/store.js';

interface Parts {
  servers: ServerStore;
  flows: FlowStore;
  runner: Runner;
  tables: TableStore;
}

/** What is asked for: an argument of a tool, or an input of a flow. */
export interface Wanted {
  server?: string | undefined;
  tool?: string | undefined;
  flow?: string | undefined;
  argument: string;
  /** What is filled in so far. */
  arguments: JsonObject;
  /** A credential of the caller's own, in place of the server's. */
  credential?: string | undefined;
  from?: Lookup | undefined;
}

export interface Found {
  from: Lookup;
  /** Whether nobody chose the source: it was proposed by name and schema. */
  proposed: boolean;
  items: LookedUp[];
}

/** Rows of a table that are offered. */
const MOST_ROWS = 500;

/** Lists the values that an argument or an input can have. */
export class Values {
  constructor(private readonly parts: Parts) {}

  /** @throws no_lookup where no source lists them; errors of the source are passed through */
  async find(wanted: Wanted, caller: Caller, signal: AbortSignal): Promise<Found> {
    const chosen = wanted.from ?? this.#declared(wanted);
    const from = chosen ?? this.#proposed(wanted);
    if (!from) throw new PindroError('no_lookup', { argument: wanted.argument });
    const sent = { ...from.arguments, ...along(from, wanted.arguments) };
    const result = await this.#ask(from, sent, wanted, caller, signal);
    return { from, proposed: chosen === undefined, items: valuesIn(result, from, wanted.argument) };
  }

  /** Metadata of the input of a flow. */
  #declared({ flow, argument }: Wanted): Lookup | undefined {
    if (flow === undefined) return undefined;
    const { properties } = inputSchema(this.parts.flows.drafts.get(flow).document);
    const property = ownOf(isObject(properties) ? properties : {}, argument);
    const parsed = lookupSchema.safeParse(isObject(property) ? property['x-values'] : undefined);
    return parsed.success ? parsed.data : undefined;
  }

  #proposed({ server, tool, argument }: Wanted): Lookup | null {
    if (server === undefined || tool === undefined) return null;
    const tools = this.parts.servers.repository.tools(server);
    const own = tools.find(({ name }) => name === tool);
    return own ? inferLookup(own, argument, tools) : null;
  }

  async #ask(from: Lookup, sent: JsonObject, wanted: Wanted, caller: Caller, signal: AbortSignal): Promise<Json> {
    const { servers, tables } = this.parts;
    if (from.table !== undefined) {
      const { table } = from;
      const all = { where: [], sort: null, descending: false, limit: MOST_ROWS };
      const { rows } = await tables.run({ do: 'find', table, ...all }, { caller: caller.id, key: '' });
      return rows;
    }
    if (from.flow !== undefined) return this.#runFlow(from.flow, sent, caller, signal);
    const server = from.server ?? wanted.server;
    if (server === undefined || from.tool === undefined)
      throw new PindroError('no_lookup', { argument: wanted.argument });
    servers.repository.requireTool(server, from.tool);
    const result = await servers.call(server, from.tool, servers.withRules(server, from.tool, sent, caller), {
      signal,
      trace: traceFields({ traceId: newTraceId() }, newSpanId()),
      idempotencyKey: `/values-${newSpanId()}`,
      ...(wanted.credential !== undefined && { credential: wanted.credential }),
    });
    const text = resultText(result);
    if (result.isError) throw new PindroError('lookup_failed', { what: `${from.tool} of ${server}`, why: text });
    return (result.structuredContent as Json | undefined) ?? readJson(text);
  }

  async #runFlow(name: string, input: JsonObject, caller: Caller, signal: AbortSignal): Promise<Json> {
    const { flows, runner } = this.parts;
    const { document, revision } = flows.loadNow(name, 'live');
    const base = { stage: 'live' as const, entry: 'hand' as const, caller, session: null };
    const { state, result, error } = await runner.begin({ document, revision, ...base, input }, signal).outcome;
    if (state === 'done') return result;
    throw new PindroError('lookup_failed', { what: `Flow "${name}"`, why: error?.message ?? state });
  }
}

const along = (from: Lookup, given: JsonObject): JsonObject =>
  Object.fromEntries((from.with ?? []).flatMap((name) => (Object.hasOwn(given, name) ? [[name, given[name]!]] : [])));

/** A text that is JSON, or one value a line. */
function readJson(text: string): Json {
  try {
    return JSON.parse(text) as Json;
  } catch {
    return text.split('\n').filter((line) => line.trim() !== '');
  }
}
