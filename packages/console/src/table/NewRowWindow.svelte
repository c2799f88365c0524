<script lang="ts">
import type { TableSummary } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import { columnSchema } from '../forms/columns.js';
import EditWindow from '../parts/resource/EditWindow.svelte';
import { api } from '../state/api.js';

interface Props {
  table: string;
  columns: TableSummary['columns'];
  open: boolean;
}
let { table, columns, open = $bindable() }: Props = $props();
const schema = $derived<JsonSchema>({
  type: 'object',
  required: columns.map((column) => column.name),
  properties: Object.fromEntries(
    columns.map((column) => [column.name, { ...columnSchema(column.type), title: column.name }]),
  ),
});
/** A field that was left empty holds nothing. */
const save = (value: JsonObject) =>
  api.addRow({
    name: table,
    body: { row: Object.fromEntries(Object.entries(value).map(([name, one]) => [name, one === '' ? null : one])) },
  });
</script>

<EditWindow bind:open title="New row in {table}" {schema} value={{}} {save} />
