import {
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

/** What an endpoint says of itself and who may use it. */
export type EndpointChange = Partial<
  Pick<EndpointDocument, 'title' | 'description' | 'instructions' | 'icon' | 'access' | 'tools' | 'servers'>
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
    // Before anybody else hears of the change, so that whoever asks then is served anew.
    bus.prependListener('changed', (what) => {
      if (what === 'flow' || what === 'server' || what === 'endpoint') this.#served.clear();
    });
  }

  /** Names of the endpoints people made. */
  names(): string[] {
    return [...this.#all().keys()].sort();
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
    if (this.builtIn(name)?.isOn() === false) throw new PindroError('endpoint_off', { name });
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

  /** @param arriving flows that will be there, by name @throws endpoint_invalid */
  check(source: Source, arriving: ReadonlyMap<string, FlowDocument> = new Map()): EndpointDocument {
    const inputs = new Map<string, JsonObject>();
    const inputOf = (flow: string) => {
      const input = inputs.get(flow) ?? inputSchema(arriving.get(flow) ?? this.flows.get(flow).document);
      inputs.set(flow, input as JsonObject);
      return input as JsonObject;
    };
    const flows = [...new Set([...this.flows.names(), ...arriving.keys()])];
    return requireEndpoint(source, { flows, inputOf, servers: this.servers.allTools() });
  }

  /** Keeps a document that has been checked. @throws already_there, name_reserved */
  keep(document: EndpointDocument): EndpointDocument {
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
    return this.save({ ...this.get(name), ...change } as unknown as JsonObject);
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

  remove(name: string): void {
    const { name: own } = this.get(name);
    this.requireMade(own);
    this.database.delete(endpoints).where(eq(endpoints.name, own)).run();
    this.#forget(own);
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
