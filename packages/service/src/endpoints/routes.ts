import type { EndpointDetail, EndpointSummary, ExposedTool } from '@pindro/contract';
import { isObject, type JsonObject } from '@pindro/core';
import type { KeyStore } from '../keys/store.js';
import type { Api } from '../platform/api.js';
import type { Sessions } from './mcp/sessions.js';
import { clientSettings } from './settings.js';
import type { EndpointStore, ServedTool } from './store.js';

interface Parts {
  store: EndpointStore;
  keys: KeyStore;
  sessions: Sessions;
  /** Address of the service. */
  address(): string;
}

export class EndpointPresenter {
  constructor(private readonly parts: Parts) {}

  urlOf(name: string): string {
    return `${this.parts.address()}/mcp/${name}`;
  }

  summary(name: string): EndpointSummary {
    const { title, instructions, access, tools } = this.parts.store.get(name);
    return {
      name,
      title: title || name,
      url: this.urlOf(name),
      instructions,
      access,
      tools: Object.keys(tools).length,
      keys: this.#keys(name).length,
      sessions: this.parts.sessions.on(name).length,
    };
  }

  detail(name: string): EndpointDetail {
    const { store, sessions } = this.parts;
    const clients = sessions.on(name).flatMap((session) => {
      const client = session.client();
      return client ? [{ ...client, key: session.access.name, since: new Date(session.since).toISOString() }] : [];
    });
    return {
      ...this.summary(name),
      document: store.get(name) as never,
      toolList: store.served(name, 'live').map(present),
      keyList: this.#keys(name),
      clients,
    };
  }

  #keys(name: string) {
    return this.parts.keys
      .list()
      .filter((key) => key.revokedAt === null && (key.endpoints.includes(name) || key.endpoints.includes('*')));
  }
}

function present(tool: ServedTool): ExposedTool {
  const target = 'flow' in tool.target ? `flow ${tool.target.flow}` : `${tool.target.server}.${tool.target.tool}`;
  const set = Object.entries(tool.rules).flatMap(([name, rule]) =>
    isObject(rule) && 'set' in rule ? [`${name} = ${JSON.stringify(rule.set)}`] : [],
  );
  return {
    name: tool.name,
    description: tool.description,
    schema: tool.seen as ExposedTool['schema'],
    target,
    set,
    trouble: tool.trouble,
  };
}

export function endpointRoutes(api: Api, store: EndpointStore, presenter: EndpointPresenter): void {
  api.on('listEndpoints', () => ({ items: store.names().map((name) => presenter.summary(name)) }));
  api.on('getEndpoint', (call) => presenter.detail(call.param('name')));
  api.on('putEndpoint', ({ body }) => presenter.detail(store.save(body.document as string | JsonObject).name));
  api.on('connectEndpoint', (call) => {
    const { name } = presenter.summary(call.param('name'));
    return { settings: clientSettings(name, presenter.urlOf(name)) };
  });
}
