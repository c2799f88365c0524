<script lang="ts">
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Rows from '../parts/Rows.svelte';
import { api } from '../state/api.js';
import { brief } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name }: { name: string } = $props();

const cursor = $derived(router.query.get('before') ?? '');
const page = new Resource(() => api.tableRows({ name, query: { limit: 50, ...(cursor && { cursor }) } }), ['table']);
const lit = $derived(Number(router.query.get('row')));
</script>

<PageHead title={name} about="Newest rows first." back={{ to: '/tables', label: 'Tables' }} />
<Loaded from={page}>
  {#snippet children(now)}
    {#if now.items.length === 0}
      <Empty title="No rows yet">Flows with a table step add rows here.</Empty>
    {:else}
      <Rows label="Rows of {name}" headings={['id', ...now.columns.map((column) => column.name)]} items={now.items}>
        {#snippet row(record)}
          <td class="tabular-nums {record.id === lit ? 'bg-ochre-wash font-bold' : 'text-soft'}">{record.id}</td>
          {#each now.columns as column (column.name)}<td class={record.id === lit ? 'bg-ochre-wash' : ''}
              >{record[column.name] === null ? '' : brief(record[column.name], 200)}</td
            >{/each}
        {/snippet}
      </Rows>
      <p class="mt-3 flex gap-2">
        {#if cursor}<a class="button" href="/tables/{name}">Newest</a>{/if}
        {#if now.next}<a class="button" href="/tables/{name}?before={now.next}">Older</a>{/if}
      </p>
    {/if}
  {/snippet}
</Loaded>
