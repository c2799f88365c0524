<script lang="ts">
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Rows from '../parts/Rows.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

const endpoints = new Resource(() => api.listEndpoints(), ['endpoint', 'key', 'client', 'flow']);
</script>

<PageHead title="Endpoints" about="Each endpoint is one MCP server at one address, with the tools you chose for it." />
<Loaded from={endpoints}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No endpoint yet">Open a <a class="link" href="/flows">flow</a> and press Expose: that makes an endpoint, a key and the settings for a client.</Empty>
    {:else}
      <Rows label="Endpoints" headings={['Endpoint', 'Address', 'Tools', 'Keys', 'Connected now']} {items}>
        {#snippet row(one)}
          <td><a class="link" href="/endpoints/{one.name}">{one.title}</a></td>
          <td class="font-mono text-sm">{one.url}</td>
          <td class="tabular-nums">{one.tools}</td>
          <td class="tabular-nums">{one.keys}</td>
          <td class="tabular-nums">{one.sessions}</td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
