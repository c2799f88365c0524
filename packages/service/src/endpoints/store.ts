import {
  asJson,
  didYouMean,
  type Effects,
  type EndpointPort,
  type Exposure,
  type FlowDocument,
  inputSchema,
  type Json,
  type JsonObject,
  PindroError,
  type Source,
  type Stage,
  type ToolDescription,
} from '@pindro/core';
import { eq } from 'drizzle-orm';
import type { FlowStore } from '../flows/store.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireName } from '../platform/names.js';
import type { ServerStore } from '../servers/store.js';
import type { BuiltIn } from './built-in.js';
import {
  ENDPOINT_FORMAT,
  type EndpointDocument,
  type ExposedEntry,
  endpointSchema,
  readEndpoint,
  requireEndpoint,
} from './document.js';
import { type ServedTool, Server } from './served.js';
import { endpoints } from './tables.js';

/** Metadata of an endpoint, and who may use it. */
export type EndpointChange = Partial<
  Pick<
    EndpointDocument,
    'title' | 'description' | 'instructions' | 'icon' | 'access' | 'tools' | 'servers' | 'off_since' | 'body_limit'
  >
>;

export class EndpointStore implements EndpointPort {
  /** Tools as served, by endpoint and stage; dropped whenever anything they are made of changes. */
  readonly #served = new Map<string, ServedTool[]>();
  #documents: Map<string, EndpointDocument> | null = null;
  /** The present name of every former one. */
  readonly #former = new Map<string, string>();

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly flows: FlowStore,
    private readonly servers: ServerStore,
    private readonly builtIns: () => readonly BuiltIn[] = () => [],
  ) {
    bus.on('undone', () => {
      this.#documents = null;
      this.#served.clear();
    });
    bus.on('removing', (what, name, { take }) => {
      if (what !== 'endpoint') return;
      take('endpoints', { name });
      this.#documents = null;
    });
    bus.on('renamed', (what, from, to) => {
      if (what === 'flow' || what === 'server') this.#follow(what, from, to);
    });
    // Before other listeners, so that their next request is served with the change.
    bus.prependListener('changed', (what) => {
      if (what === 'flow' || what === 'server' || what === 'endpoint') this.#served.clear();
    });
  }

  /** Names of the endpoints people made. */
  names(): string[] {
    return [...this.#all().keys()].sort();
  }

  /** The same, and the names they went by. */
  allNames(): string[] {
    return [...this.names(), ...this.#former.keys()];
  }

  /** The tools of endpoints on which all are chosen one by one. */
  allTools(): Record<string, string[]> {
    const closed = this.allNames().filter((name) => Object.keys(this.get(name).servers).length === 0);
    return Object.fromEntries(closed.map((name) => [name, Object.keys(this.get(name).tools)]));
  }

  /** The flows that are tools, by endpoint and tool. */
  allFlows(): Record<string, Record<string, string>> {
    const flowsOf = (name: string) =>
      Object.entries(this.get(name).tools).flatMap(([tool, one]) => ('flow' in one ? [[tool, one.flow]] : []));
    return Object.fromEntries(this.allNames().map((name) => [name, Object.fromEntries(flowsOf(name))]));
  }

  /** The endpoint of a name, or of a name it went by, or null. Asked for every call, so that all are kept in memory. */
  find(name: string): EndpointDocument | null {
    const all = this.#all();
    const own = this.builtIn(name);
    if (own) return own.document();
    return all.get(name) ?? all.get(this.#former.get(name) ?? '') ?? null;
  }

  builtIn(name: string): BuiltIn | null {
    return this.builtIns().find((own) => own.name === name) ?? null;
  }

  isBuiltIn(name: string): boolean {
    return this.builtIn(name) !== null;
  }

  /** What is built in cannot be changed. @throws name_reserved */
  requireMade(name: string): void {
    if (this.isBuiltIn(name)) throw new PindroError('name_reserved', { name });
  }

  /** @throws endpoint_off */
  requireOn(name: string): void {
    const own = this.builtIn(name);
    if (own ? !own.isOn() : this.find(name)?.off_since !== undefined)
      throw new PindroError('endpoint_off', { name, command: own ? `${name} enable` : `endpoint enable ${name}` });
  }

  get(name: string): EndpointDocument {
    const document = this.find(name);
    if (document) return document;
    throw new PindroError('not_found', { what: 'endpoint', name, suggestion: didYouMean(name, this.names()) });
  }

  #all(): Map<string, EndpointDocument> {
    if (this.#documents) return this.#documents;
    const rows = this.database.select().from(endpoints).all();
    this.#documents = new Map();
    this.#former.clear();
    for (const row of rows) this.#learn(this.#documents, endpointSchema.parse(row.document));
    return this.#documents;
  }

  #learn(all: Map<string, EndpointDocument>, document: EndpointDocument): void {
    for (const former of all.get(document.name)?.formerly ?? []) this.#former.delete(former);
    for (const former of document.formerly) this.#former.set(former, document.name);
    all.set(document.name, document);
  }

  save(written: string | JsonObject): EndpointDocument {
    return this.keep(this.check(readEndpoint(written)));
  }

  /** @param arriving flows that will be there, by name, and servers with their tools @throws endpoint_invalid */
  check(
    source: Source,
    arriving: ReadonlyMap<string, FlowDocument> = new Map(),
    arrivingServers: Record<string, ToolDescription[]> = {},
  ): EndpointDocument {
    const inputs = new Map<string, JsonObject>();
    const inputOf = (flow: string) => {
      const input = inputs.get(flow) ?? inputSchema(arriving.get(flow) ?? this.flows.drafts.get(flow).document);
      inputs.set(flow, input as JsonObject);
      return input as JsonObject;
    };
    const flows = [...new Set([...this.flows.drafts.allNames(), ...arriving.keys()])];
    return requireEndpoint(source, {
      flows,
      inputOf,
      servers: { ...this.servers.repository.allSeen(), ...arrivingServers },
    });
  }

  /** Keeps a document that has been checked. @throws already_there, name_reserved */
  keep(given: EndpointDocument): EndpointDocument {
    const document = this.#withPresentNames(given);
    for (const name of [document.name, ...document.formerly]) this.#requireFree(name, document.name);
    const values = { document, updatedAt: Date.now() };
    this.database
      .insert(endpoints)
      .values({ name: document.name, ...values })
      .onConflictDoUpdate({ target: endpoints.name, set: values })
      .run();
    this.#learn(this.#all(), document);
    this.bus.changed('endpoint', document.name);
    return document;
  }

  /** Replaces former names in the stored document. */
  #withPresentNames(document: EndpointDocument): EndpointDocument {
    const tools = Object.entries(document.tools).map(([tool, entry]) => [
      tool,
      'flow' in entry
        ? { ...entry, flow: this.flows.drafts.nameOf(entry.flow) }
        : { ...entry, server: this.servers.repository.nameOf(entry.server) },
    ]);
    const servers = Object.entries(document.servers).map(([name, passed]) => [
      this.servers.repository.nameOf(name),
      passed,
    ]);
    return { ...document, tools: Object.fromEntries(tools), servers: Object.fromEntries(servers) };
  }

  /** No other endpoint may have a name, or have had it. */
  #requireFree(name: string, owner: string): void {
    this.requireMade(name);
    const holder = this.find(name);
    if (holder && holder.name !== owner)
      throw new PindroError('already_there', {
        what: holder.name === name ? 'endpoint' : 'former name of an endpoint',
        name,
      });
  }

  #forget(name: string): void {
    this.#documents = null;
    this.bus.changed('endpoint', name);
  }

  change(name: string, change: EndpointChange): EndpointDocument {
    return this.save(asJson({ ...this.get(name), ...change }));
  }

  /** Gives it another name. Under the old one it keeps answering, until another endpoint is called so. */
  rename(name: string, to: string): EndpointDocument {
    const document = this.get(name);
    requireName(to, 'endpoint');
    this.requireMade(document.name);
    this.#requireFree(to, document.name);
    if (to === document.name) return document;
    const formerly = [...new Set([document.name, ...document.formerly])].filter((former) => former !== to);
    const renamed = { ...document, name: to, formerly };
    this.database
      .update(endpoints)
      .set({ name: to, document: renamed, updatedAt: Date.now() })
      .where(eq(endpoints.name, document.name))
      .run();
    this.#forget(to);
    return renamed;
  }

  /** @throws already_there */
  requireFresh(name: string): void {
    this.requireMade(name);
    if (this.find(name)) throw new PindroError('already_there', { what: 'endpoint', name });
  }

  /** Disables it and notifies its clients, or enables it. */
  switch(name: string, on: boolean): EndpointDocument {
    const { off_since, ...document } = this.get(name);
    this.requireMade(document.name);
    if (on === (off_since === undefined)) return this.get(name);
    return this.keep(on ? document : { ...document, off_since: new Date().toISOString() });
  }

  /** The same tools and words under another name. */
  copy(from: string, to: string): EndpointDocument {
    const { off_since: _, ...document } = this.get(from);
    this.requireMade(document.name);
    requireName(to, 'endpoint');
    this.requireFresh(to);
    return this.keep({ ...document, name: to, formerly: [] });
  }

  /** Instructions for the connecting model: the endpoint's own, then those of whole servers. */
  instructions(name: string): string {
    const { instructions, servers } = this.get(name);
    const passed = Object.keys(servers)
      .filter((server) => this.servers.names().includes(server))
      .map((server) => this.servers.repository.instructions(server).trim());
    return [instructions.trim(), ...passed].filter(Boolean).join('\n\n');
  }

  /** Endpoints that pass a server's tools on, some or all. */
  passingOn(server: string): string[] {
    return this.names().filter((name) => {
      const { tools, servers } = this.get(name);
      return server in servers || Object.values(tools).some((entry) => 'server' in entry && entry.server === server);
    });
  }

  /** Something on endpoints was renamed. */
  #follow(what: 'flow' | 'server', from: string, to: string): void {
    for (const name of what === 'flow' ? this.carrying(from) : this.passingOn(from)) {
      const document = this.get(name);
      const tools = Object.entries(document.tools).map(([tool, entry]) => {
        const own = entry as Record<string, unknown>;
        return [tool, own[what] === from ? { ...own, [what]: to } : own];
      });
      const servers = Object.entries(document.servers).map(([server, passed]) => [
        what === 'server' && server === from ? to : server,
        passed,
      ]);
      this.keep({ ...document, tools: Object.fromEntries(tools), servers: Object.fromEntries(servers) });
    }
  }

  /** Puts a tool on an endpoint, which is made when it is not there yet. */
  expose(name: string, tool: string, entry: ExposedEntry): void {
    const document: Json = (this.find(name) as Json) ?? { format: 'pindro/endpoint@1', name, title: name };
    const tools = ((document as JsonObject).tools ?? {}) as JsonObject;
    this.save({
      ...(document as JsonObject),
      tools: { ...tools, [tool]: { ...(tools[tool] as JsonObject), ...(entry as JsonObject) } },
    });
  }

  /** The endpoints that carry a flow. */
  carrying(flow: string): string[] {
    return this.names().filter((name) =>
      Object.values(this.get(name).tools).some((entry) => 'flow' in entry && entry.flow === flow),
    );
  }

  async exposures(name: string, stage: Stage): Promise<Exposure[]> {
    const sound = (tool: ServedTool): tool is ServedTool & Exposure =>
      tool.trouble === null && !('builtIn' in tool.target);
    return this.served(name, stage).filter(sound);
  }

  /** What a flow does to the world at a stage, with all that it calls. */
  effects(flow: FlowDocument, stage: Stage): Effects {
    return this.#server(stage).effects(flow);
  }

  /** Tools as an endpoint that had just these would serve them. */
  asServed(tools: EndpointDocument['tools'], stage: Stage): ServedTool[] {
    return this.#server(stage).tools(endpointSchema.parse({ format: ENDPOINT_FORMAT, name: 'toolbox', tools }));
  }

  #server(stage: Stage): Server {
    return new Server({ flows: this.flows, servers: this.servers, endpoint: (other) => this.find(other) }, stage);
  }

  served(name: string, stage: Stage): readonly ServedTool[] {
    const own = this.builtIn(name);
    if (own) return own.tools();
    const document = this.get(name);
    const key = `${document.name}/${stage}`;
    const known = this.#served.get(key);
    if (known) return known;
    const tools = this.#server(stage).tools(document);
    this.#served.set(key, tools);
    return tools;
  }
}
