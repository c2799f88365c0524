import { nameFrom } from '@pindro/core';
import type { EndpointStore } from '../endpoints/store.js';
import type { FlowStore } from '../flows/store.js';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import { exposeAll, requireFreeTools } from './expose.js';
import type { DocumentStore } from './store.js';

interface Parts {
  flows: FlowStore;
  endpoints: EndpointStore;
}

export function documentRoutes(api: Api, store: DocumentStore, parts: Parts): void {
  api.on('inspectDocument', async ({ body }) => {
    const description = await store.read(body);
    return store.present(description, prefixOf(description.title));
  });
  api.on('importDocument', async ({ body }) => {
    const { endpoint } = body;
    const { document, flows } = await store.take(body, (names) => {
      if (endpoint !== undefined) requireFreeTools(endpoint, names, parts);
    });
    return { ...document, tools: endpoint === undefined ? [] : await exposeAll(endpoint, flows, parts) };
  });
  api.on('listDocuments', ({ query }) => ({
    items: store.list().filter((one) => fits(query.search, one.name, one.title, one.url, ...one.flows)),
  }));
  api.on('getDocument', (call) => store.get(call.param('name')));
  api.on('updateDocument', (call) => store.change(call.param('name'), call.body));
  api.on('refreshDocument', async (call) => {
    const name = call.param('name');
    const { document, items, description } = await store.update(name, call.body, call.body.apply);
    const { operations } = store.present(description, name);
    return { document, items, fresh: operations.filter((one) => !one.made && !document.flows.includes(one.flow)) };
  });
}

const prefixOf = (title: string) => nameFrom(title).split('-')[0] || 'api';
