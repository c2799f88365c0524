import type {
  ArgumentRow,
  ClientSettings,
  EndpointDetail,
  EndpointSummary,
  ExposedTool,
  OpenSession,
} from '@pindro/contract';
import {
  asSent,
  describeType,
  estimateTokens,
  isObject,
  type JsonObject,
  supplierOf,
  supplierWords,
} from '@pindro/core';
import type { KeyStore } from '../keys/store.js';
import type { Session } from './mcp/session.js';
import { type Sessions, shownId } from './mcp/sessions.js';
import type { ServedTool } from './served.js';
import { clientSettings } from './settings.js';
import type { EndpointStore } from './store.js';

interface Parts {
  store: EndpointStore;
  keys: KeyStore;
  sessions: Sessions;
  /** Address of the service. */
  address(): string;
  /** How the command line is called on this machine. */
  command: readonly string[];
}
/** A client without an open stream counts as connected for so long after its last request, in milliseconds. */
const LATELY = 60_000;
const iso = (moment: number) => new Date(moment).toISOString();

/** Shows endpoints to people. */
/** Maximum number of listed keys, newest first; the total is reported too. */
const MOST_KEYS = 200;

export class EndpointPresenter {
  constructor(private readonly parts: Parts) {}

  urlOf(name: string): string {
    return `${this.parts.address()}/mcp/${name}`;
  }

  /** Settings for each shape of client, with the key in place or a gap for it. */
  settings(given: string, key?: string): ClientSettings[] {
    const { name, access } = this.parts.store.get(given);
    const { command, address } = this.parts;
    const base = { endpoint: name, url: this.urlOf(name), service: address(), command, open: access === 'open' };
    return clientSettings({ ...base, ...(key !== undefined && { key }) });
  }

  summary(given: string): EndpointSummary {
    const { name, title, description, instructions, icon, formerly, access, off_since } = this.parts.store.get(given);
    return {
      name,
      title: title || name,
      url: this.urlOf(name),
      description,
      instructions,
      icon: icon ?? null,
      formerly,
      on: this.parts.store.builtIn(name)?.isOn() ?? off_since === undefined,
      offSince: off_since ?? null,
      access,
      tools: this.parts.store.served(name, 'live').length,
      keys: this.#keys(name).length,
      sessions: this.parts.sessions.on(name).length,
    };
  }

  detail(given: string): EndpointDetail {
    const { store, sessions } = this.parts;
    const document = store.get(given);
    const { name } = document;
    const tools = store.served(name, 'live');
    const clients = sessions
      .on(name)
      .filter(
        ({ client, channel, lastUsed }) => client.name !== '' && (channel.attached || lastUsed > Date.now() - LATELY),
      )
      .map(({ client, access, since }) => ({
        name: client.name,
        version: client.version,
        key: access.name,
        since: iso(since),
      }));
    return {
      ...this.summary(name),
      document: document,
      toolList: tools.map((tool) => present(tool, document.tools[tool.name] as JsonObject | undefined)),
      tokens: estimateTokens(
        tools.map((tool) => asSent({ name: tool.name, description: tool.description, inputSchema: tool.seen })),
      ),
      keyList: this.#keys(name).slice(0, MOST_KEYS),
      clients,
    };
  }

  session(session: Session): OpenSession {
    const { client, access, channel } = session;
    return {
      id: shownId(session),
      client: client.name || 'not reported yet',
      version: client.version,
      key: access.name,
      caller: access.caller.id,
      stage: access.stage,
      transport: channel.kind,
      since: iso(session.since),
      lastUsed: iso(session.lastUsed),
      listening: channel.attached,
      lists: session.lists,
      calls: session.calls,
    };
  }

  #keys(name: string) {
    // What is built in wants to be named.
    const all = !this.parts.store.isBuiltIn(name);
    return this.parts.keys
      .list()
      .filter(
        ({ revokedAt, endpoints }) =>
          revokedAt === null && (endpoints.includes(name) || (all && endpoints.includes('*'))),
      );
  }
}

function present(tool: ServedTool, entry: JsonObject | undefined): ExposedTool {
  const server = 'server' in tool.target ? tool.target.server : null;
  const rows = argumentRows(tool);
  return {
    name: tool.name,
    title: tool.title ?? '',
    description: tool.description,
    schema: tool.seen as ExposedTool['schema'],
    outputSchema: tool.returns as ExposedTool['outputSchema'],
    annotations: tool.annotations as ExposedTool['annotations'],
    worked: tool.worked as ExposedTool['worked'],
    arguments: rows,
    target: targetWords(tool.target),
    own: tool.own,
    worded: ['title', 'description', 'arguments', 'annotations', 'returns', 'icon'].filter(
      (word) => entry?.[word] !== undefined,
    ),
    set: rows.flatMap(({ name, supplied: how, value, rule }) =>
      how === 'set' ? [`${name} = ${supplierWords({ how, value, rule }, server)}`] : [],
    ),
    tokens: tool.tokens,
    trouble: tool.trouble,
    icon: iconOf(tool),
    credential: 'server' in tool.target ? (tool.target.credential ?? 'workspace') : null,
    passed: tool.passed,
  };
}

function iconOf({ sent }: ServedTool): string | null {
  const [first] = Array.isArray(sent.icons) ? (sent.icons as JsonObject[]) : [];
  return typeof first?.src === 'string' ? first.src : null;
}

function argumentRows({ schema, seen, ruledBy }: ServedTool): ArgumentRow[] {
  const properties = isObject(schema.properties) ? schema.properties : {};
  const shown = isObject(seen.properties) ? seen.properties : {};
  const required = Array.isArray(schema.required) ? schema.required : [];
  return Object.entries(properties).map(([name, property]) => {
    const { how, value, rule } = supplierOf(name, ruledBy?.server ?? {}, ruledBy?.own);
    const as = (shown[name] ?? property) as JsonObject;
    return {
      name,
      type: describeType(as),
      required: required.includes(name),
      description: typeof as.description === 'string' ? as.description : '',
      supplied: how,
      value,
      rule,
    };
  });
}

function targetWords(target: ServedTool['target']): string {
  if ('flow' in target) return `flow ${target.flow}`;
  return 'server' in target ? `${target.server}.${target.tool}` : 'built in';
}
