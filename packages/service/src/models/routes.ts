import { DIALECT_NAMES, dialectNamed, type JsonObject, modelSettings } from '@pindro/core';
import { z } from 'zod';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import type { ModelStore } from './store.js';

export function modelRoutes(api: Api, store: ModelStore): void {
  api.on('listModels', ({ query }) => ({
    items: store.list().filter((one) => fits(query.search, one.name, one.model, one.base)),
  }));
  api.on('getModel', (call) => store.summary(call.param('name')));
  api.on('addModel', ({ body: { skipTest, ...body } }) =>
    store.add({ ...body, credential: body.credential ?? null, settings: body.settings as JsonObject }, skipTest),
  );
  api.on('updateModel', (call) =>
    store.change(call.param('name'), { ...call.body, settings: call.body.settings as JsonObject | undefined }),
  );
  api.on('availableModels', async (call) => ({ items: await store.offers(call.param('name')) }));
  api.on('listDialects', () => ({
    items: DIALECT_NAMES.map((name) => ({ name, key: dialectNamed(name)!.key })),
    settings: z.toJSONSchema(modelSettings, { unrepresentable: 'any' }) as JsonObject,
  }));
  api.on('testModel', (call) => store.test(call.param('name')));
}
