<script lang="ts">
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Rows from '../parts/Rows.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

const tables = new Resource(() => api.listTables(), ['table']);
</script>

<PageHead title="Tables" about="Records that flows find and add, kept in this workspace." />
<Loaded from={tables}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No table yet"
        >A table is made over the API: <code class="chip">POST /api/v1/tables</code> with its name and columns.</Empty
      >
    {:else}
      <Rows label="Tables" headings={['Table', 'Rows', 'Columns']} {items}>
        {#snippet row(one)}
          <td><a class="link" href="/tables/{one.name}">{one.name}</a></td>
          <td class="tabular-nums">{one.rows}</td>
          <td
            >{#each one.columns as column, index (column.name)}{index > 0 ? ', ' : ''}{column.name}
              <span class="text-sm text-soft">{column.type}</span>{/each}</td
          >
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
