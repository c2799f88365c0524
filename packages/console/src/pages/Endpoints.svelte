<script lang="ts">
import MakeEndpoint from '../make/MakeEndpoint.svelte';
import Empty from '../parts/list/Empty.svelte';
import ListHead from '../parts/list/ListHead.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import Rows from '../parts/list/Rows.svelte';
import State from '../parts/text/State.svelte';
import ThingMenu from '../parts/resource/ThingMenu.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { fits } from '../state/finding.js';
import { removing } from '../state/removing.svelte.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import WorkshopLink from '../workshop/WorkshopLink.svelte';

let making = $state(false);
const endpoints = new Resource(() => api.listEndpoints(), ['endpoint', 'key', 'client', 'flow']);
</script>

<ListHead
  title="Endpoints"
  about="Each endpoint is one MCP server at one address, with the tools you chose for it."
  make="New endpoint"
  onMake={() => (making = true)}
/>
<Loaded from={endpoints}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No endpoints yet">
        Open a <a class="link" href="/flows">flow</a> and use “Expose” to create an endpoint, a key and client settings.
      </Empty>
    {:else}
      <Rows
        label="Endpoints"
        headings={['Endpoint', 'Address', 'Tools', 'Keys', 'Connected clients', '']}
        items={items.filter((one) => fits(one.name, one.title, one.description))}
        remove={(one) => void removing.remove('endpoint', one.name)}
      >
        {#snippet row(one)}
          <td>
            <NameCell sort="endpoint" name={one.name} title={one.title} />
            {#if !one.on}<State state="cancelled" label="disabled" />{/if}
          </td>
          <td class="font-mono text-sm">{one.url}</td>
          <td class="tabular-nums">{one.tools}</td>
          <td class="tabular-nums">{one.keys}</td>
          <td class="tabular-nums">{one.sessions}</td>
          <td><ThingMenu sort="endpoint" name={one.name} /></td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
<WorkshopLink />
{#if making}
  <Window bind:open={making} title="New endpoint">
    <MakeEndpoint onMade={(name) => router.go(`/endpoints/${name}`)} />
  </Window>
{/if}
