<script lang="ts">
import { COLUMN_TYPES } from '../make/column-types.js';
import MakeTable from '../make/MakeTable.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import ResourceList from '../parts/list/ResourceList.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const tables = new Resource(() => api.listTables(), ['table']);
</script>

<ResourceList
  type="table"
  title="Tables"
  about="Records that flows read and write, stored in this workspace."
  from={tables}
  headings={['Table', 'Rows', 'Columns']}
  words={(one) => [one.name, one.columns.map((column) => column.name).join(' ')]}
  make="New table"
>
  {#snippet empty()}
    Flows store records in tables. Create one with its columns, then add rows manually, from a CSV file, or with a
    flow.
  {/snippet}
  {#snippet cells(one)}
    <td><NameCell sort="table" name={one.name} /></td>
    <td class="tabular-nums">{one.rows.toLocaleString()}</td>
    <td>
      {#each one.columns as column, index (column.name)}
        {index > 0 ? ', ' : ''}{column.name}
        <span class="text-sm text-soft">{COLUMN_TYPES[column.type]}</span>
      {/each}
    </td>
  {/snippet}
  {#snippet form()}<MakeTable onMade={(name) => router.go(`/tables/${name}`)} />{/snippet}
</ResourceList>
