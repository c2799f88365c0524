import type { Api } from '../platform/api.js';
import type { DocumentStore } from './store.js';

export function documentRoutes(api: Api, store: DocumentStore): void {
  api.on('readDocument', async ({ body }) => {
    const description = await store.read(body);
    return store.present(description, prefixOf(description.title));
  });
  api.on('takeDocument', ({ body }) => store.take(body));
  api.on('listDocuments', () => ({ items: store.list() }));
  api.on('updateDocument', async (call) => {
    const name = call.param('name');
    const { document, items, description } = await store.update(name, call.body, call.body.apply);
    const { operations } = store.present(description, name);
    return { document, items, fresh: operations.filter((one) => !one.made && !document.flows.includes(one.flow)) };
  });
}

const prefixOf = (title: string) =>
  title
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-+$/g, '')
    .split('-')[0] || 'api';
