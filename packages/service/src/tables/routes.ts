import type { JsonObject } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { TableStore } from './store.js';

export function tableRoutes(api: Api, store: TableStore): void {
  api.on('listTables', () => ({ items: store.list() }));
  api.on('putTable', ({ body }) => {
    store.create(body.name, body.columns, body.owner ?? null);
    return store.summary(body.name);
  });
  api.on('tableRows', (call) => {
    const name = call.param('name');
    const { limit, cursor } = call.query;
    const before = cursor === undefined ? null : Number(cursor);
    return { ...store.page(name, limit, Number.isSafeInteger(before) ? before : null), columns: store.columns(name) };
  });
  api.on('addRow', (call) => ({
    row: store.add({ table: call.param('name'), row: call.body.row as JsonObject, unless: null }).rows[0]!,
  }));
}
