import { RESOURCE } from '@pindro/contract';
import { hitOf, type ServedResource } from '../platform/resources.js';
import type { TableStore } from './store.js';

export const servedTables = (tables: TableStore): ServedResource => ({
  is: RESOURCE.table,
  names: () => tables.names(),
  nameOf: (given) => tables.definitions.summary(given).name,
  callOtherwise: (from, to) => tables.callOtherwise(from, to),
  *hits() {
    for (const { name, columns } of tables.definitions.list())
      yield hitOf(this.is, { name, about: columns.map((column) => column.name).join(', ') });
  },
});
