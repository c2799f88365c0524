<script lang="ts">
import { COLUMN_TYPES } from '../make/column-types.js';
import MakeTable from '../make/MakeTable.svelte';
import Empty from '../parts/list/Empty.svelte';
import ListHead from '../parts/list/ListHead.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import Rows from '../parts/list/Rows.svelte';
import ThingMenu from '../parts/resource/ThingMenu.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { fits } from '../state/finding.js';
import { removing } from '../state/removing.svelte.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const tables = new Resource(() => api.listTables(), ['table']);
let making = $state(false);
</script>

<ListHead
  title="Tables"
  about="Records that flows read and write, stored in this workspace."
  make="New table"
  onMake={() => (making = true)}
/>
<Loaded from={tables}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No tables yet">
        Flows store records in tables. Create one with its columns, then add rows manually, from a CSV file, or with
        a flow.
      </Empty>
    {:else}
      <Rows
        label="Tables"
        headings={['Table', 'Rows', 'Columns', '']}
        items={items.filter((one) => fits(one.name, one.columns.map((column) => column.name).join(' ')))}
        remove={(one) => void removing.remove('table', one.name)}
      >
        {#snippet row(one)}
          <td><NameCell sort="table" name={one.name} /></td>
          <td class="tabular-nums">{one.rows.toLocaleString()}</td>
          <td>
            {#each one.columns as column, index (column.name)}
              {index > 0 ? ', ' : ''}{column.name}
              <span class="text-sm text-soft">{COLUMN_TYPES[column.type]}</span>
            {/each}
          </td>
          <td><ThingMenu sort="table" name={one.name} /></td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
{#if making}
  <Window bind:open={making} title="New table">
    <MakeTable onMade={(name) => router.go(`/tables/${name}`)} />
  </Window>
{/if}
