import {
  type Filter,
  findUnsafe,
  type JsonObject,
  jsonMistake,
  mistakesOf,
  PindroError,
  tableWhere,
} from '@pindro/core';
import type { Objects } from '../objects/objects.js';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import type { TableStore } from './store.js';

interface Parts {
  store: TableStore;
  objects: Objects;
  /** Drafts that name a column of the table, with its new name. */
  followColumns(table: string, names: Record<string, string>): Promise<{ flows: string[]; keep(): void }>;
}

export function tableRoutes(api: Api, { store, objects, followColumns }: Parts): void {
  const rowOf = (text: string) => {
    const id = Number(text);
    if (Number.isSafeInteger(id)) return id;
    throw new PindroError('request_invalid', { why: `The id of a row is an integer, not "${text.slice(0, 80)}"` });
  };
  api.on('listTables', ({ query }) => ({
    items: store.definitions
      .list()
      .filter(({ name, columns }) => fits(query.search, name, ...columns.map((column) => column.name))),
  }));
  api.on('getTable', (call) => store.definitions.summary(call.param('name')));
  api.on('createTable', ({ body }) => {
    store.definitions.create(body.name, body.columns, body.owner ?? null);
    return store.definitions.summary(body.name);
  });
  api.on('updateTable', async (call) => {
    const { name } = store.definitions.summary(call.param('name'));
    const follow = await followColumns(name, call.body.rename ?? {});
    store.definitions.alter(name, call.body, follow.keep);
    return { ...store.definitions.summary(name), changed: follow.flows.map((flow) => `flow "${flow}"`) };
  });
  api.on('copyTable', (call) => {
    const { to, rows } = call.body;
    store.definitions.copy(call.param('name'), to, rows);
    return store.definitions.summary(to);
  });

  api.on('tableRows', (call) => {
    const name = call.param('name');
    const { limit, cursor, where, ...filter } = call.query;
    const from = cursor === undefined ? undefined : rowOf(cursor);
    return {
      ...store.rows.page(name, limit, { ...filter, from, where: readWhere(where) }),
      columns: store.definitions.columns(name),
    };
  });
  api.on('getRow', (call) => ({ row: store.rows.row(call.param('name'), rowOf(call.param('row'))) }));
  api.on('addRow', (call) => ({
    row: store.addRow(call.param('name'), call.body.row as JsonObject, { name: call.who.name }),
  }));
  api.on('addRows', (call) => {
    const rows = call.body.rows as JsonObject[];
    const by = { name: call.who.name };
    if (call.body.key !== undefined) return store.updateAll(call.param('name'), rows, call.body.key, by);
    store.addAll(call.param('name'), rows, by);
    return { added: rows.length, changed: 0 };
  });
  api.on('updateRow', (call) => ({
    row: store.updateRow(call.param('name'), rowOf(call.param('row')), call.body.set as JsonObject, {
      name: call.who.name,
    }),
  }));
  api.on('rowHistory', (call) => ({
    items: store.historyOf(call.param('name'), rowOf(call.param('row'))).map(({ at, did, ...entry }) => ({
      ...entry,
      at: new Date(at).toISOString(),
      did: did as 'added' | 'changed',
    })),
  }));
  api.on('removeRow', (call) => {
    const { name } = store.definitions.summary(call.param('name'));
    const id = rowOf(call.param('row'));
    store.rows.row(name, id);
    const { table, where } = store.rowToTake(name, id);
    return objects.remove('row', `${name}/${id}`, { by: call.who.name, ...call.query }, ({ take, tell }) => {
      take(table, where);
      tell('table', name);
    });
  });
}

/** Table conditions from a query parameter. */
function readWhere(text: string | undefined): Filter {
  if (text === undefined) return [];
  const refuse = (why: string) => new PindroError('request_invalid', { why: `"where" ${why}` }, { at: '/where' });
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw refuse(`is not JSON: ${jsonMistake(error)}`);
  }
  const unsafe = findUnsafe(value as JsonObject);
  if (unsafe) throw refuse(unsafe.why);
  const parsed = tableWhere.safeParse(value);
  if (!parsed.success)
    throw refuse(
      mistakesOf(parsed.error, value as JsonObject)
        .map(({ at, message, hint }) =>
          `${at} ${message.replace('"the document" ', '')}${hint ? `. ${hint}` : ''}`.trim(),
        )
        .join('; '),
    );
  // The library omits this name, and an omitted condition would match every row.
  if (Object.hasOwn(value as JsonObject, '__proto__'))
    throw refuse('contains the column "__proto__", which does not exist');
  return Object.keys(parsed.data).length > 0 ? [parsed.data] : [];
}
