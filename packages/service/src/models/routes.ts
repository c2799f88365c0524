import type { JsonObject } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { ModelStore } from './store.js';

export function modelRoutes(api: Api, store: ModelStore): void {
  api.on('listModels', () => ({ items: store.list() }));
  api.on('addModel', ({ body }) =>
    store.add({ ...body, credential: body.credential ?? null, settings: body.settings as JsonObject }),
  );
  api.on('testModel', (call) => store.test(call.param('name')));
}
