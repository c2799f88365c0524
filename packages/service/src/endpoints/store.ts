import {
  asPindroError,
  didYouMean,
  type EndpointPort,
  type Exposure,
  type FlowDocument,
  inputSchema,
  type JsonObject,
  PindroError,
  rulesFor,
  type Stage,
  seenSchema,
} from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { FlowStore } from '../flows/store.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import type { ServerStore } from '../servers/store.js';
import { type EndpointDocument, type ExposedEntry, requireEndpoint } from './document.js';
import { endpoints } from './tables.js';

/** An exposed tool with all that serving it needs. */
export interface ServedTool extends Exposure {
  title: string | undefined;
  /** The schema as the client sees it. */
  seen: JsonObject;
  /** Why it cannot be called now, if so. */
  trouble: string | null;
}

export class EndpointStore implements EndpointPort {
  /** Tools as served, by endpoint and stage; dropped whenever anything they are made of changes. */
  readonly #served = new Map<string, ServedTool[]>();
  readonly #documents = new Map<string, EndpointDocument>();

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly flows: FlowStore,
    private readonly servers: ServerStore,
  ) {
    // Before anybody else hears of the change, so that whoever asks then is served anew.
    bus.prependListener('changed', (what) => {
      if (what === 'flow' || what === 'server' || what === 'endpoint') this.#served.clear();
    });
  }

  names(): string[] {
    return this.database
      .select({ name: endpoints.name })
      .from(endpoints)
      .orderBy(asc(endpoints.name))
      .all()
      .map(({ name }) => name);
  }

  /** The endpoint of a name, or null. Asked for every call, so that what was read once is kept. */
  find(name: string): EndpointDocument | null {
    const known = this.#documents.get(name);
    if (known) return known;
    const row = this.database.select().from(endpoints).where(eq(endpoints.name, name)).get();
    if (!row) return null;
    const document = row.document as EndpointDocument;
    this.#documents.set(name, document);
    return document;
  }

  get(name: string): EndpointDocument {
    const document = this.find(name);
    if (document) return document;
    throw new PindroError('not_found', { what: 'endpoint', name, suggestion: didYouMean(name, this.names()) });
  }

  save(written: string | JsonObject): EndpointDocument {
    const inputs = Object.fromEntries(this.flows.all().map((flow) => [flow.name, inputSchema(flow.document)]));
    const document = requireEndpoint(written, { inputs, servers: this.servers.allTools() });
    const values = { document, updatedAt: Date.now() };
    this.database
      .insert(endpoints)
      .values({ name: document.name, ...values })
      .onConflictDoUpdate({ target: endpoints.name, set: values })
      .run();
    this.#documents.delete(document.name);
    this.bus.changed('endpoint', document.name);
    return document;
  }

  /** Puts a tool on an endpoint, which is made when it is not there yet. */
  expose(name: string, tool: string, entry: ExposedEntry): void {
    const document: EndpointDocument = this.names().includes(name)
      ? this.get(name)
      : { format: 'pindro/endpoint@1', name, title: name, instructions: '', tools: {}, access: 'keys' };
    this.save({
      ...document,
      tools: { ...document.tools, [tool]: { ...document.tools[tool], ...entry } },
    } as unknown as JsonObject);
  }

  /** The endpoints that carry a flow. */
  carrying(flow: string): string[] {
    return this.names().filter((name) =>
      Object.values(this.get(name).tools).some((entry) => 'flow' in entry && entry.flow === flow),
    );
  }

  async exposures(name: string, stage: Stage): Promise<Exposure[]> {
    return this.served(name, stage).filter((tool) => tool.trouble === null);
  }

  served(name: string, stage: Stage): ServedTool[] {
    const key = `${name}/${stage}`;
    const known = this.#served.get(key);
    if (known) return known;
    const tools = Object.entries(this.get(name).tools).map(([tool, entry]) => this.#serve(tool, entry, stage));
    this.#served.set(key, tools);
    return tools;
  }

  #serve(name: string, entry: ExposedEntry, stage: Stage): ServedTool {
    return 'flow' in entry ? this.#serveFlow(name, entry, stage) : this.#serveServerTool(name, entry);
  }

  #serveFlow(name: string, entry: Extract<ExposedEntry, { flow: string }>, stage: Stage): ServedTool {
    let document: FlowDocument | null = null;
    let trouble: string | null = null;
    try {
      ({ document } = this.flows.loadNow(entry.flow, stage));
    } catch (error) {
      const { message, hint } = asPindroError(error);
      trouble = `${message}. ${hint}`;
    }
    const schema = document ? inputSchema(document) : {};
    const rules = entry.arguments ?? {};
    const description = entry.description ?? document?.description ?? document?.title ?? '';
    return {
      name,
      title: entry.title ?? document?.title,
      description,
      schema,
      rules,
      seen: seenSchema(schema, rules),
      target: { flow: entry.flow },
      trouble,
    };
  }

  #serveServerTool(name: string, entry: Extract<ExposedEntry, { server: string }>): ServedTool {
    const tool = this.servers.names().includes(entry.server)
      ? this.servers.tools(entry.server).find((candidate) => candidate.name === entry.tool)
      : undefined;
    const trouble = tool
      ? null
      : `Tool server "${entry.server}" has no tool "${entry.tool}" any more. Refresh the server, or take the tool off the endpoint.`;
    const schema = tool?.inputSchema ?? {};
    const rules = tool ? rulesFor(tool, this.servers.rules(entry.server), entry.arguments) : {};
    return {
      name,
      title: entry.title ?? tool?.title,
      description: entry.description ?? tool?.description ?? '',
      schema,
      rules,
      seen: seenSchema(schema, rules),
      target: { server: entry.server, tool: entry.tool },
      trouble,
    };
  }
}
