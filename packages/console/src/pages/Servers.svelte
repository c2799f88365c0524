<script lang="ts">
import AttachServer from '../attach/AttachServer.svelte';
import Empty from '../parts/list/Empty.svelte';
import ListHead from '../parts/list/ListHead.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import Rows from '../parts/list/Rows.svelte';
import State from '../parts/text/State.svelte';
import ThingMenu from '../parts/resource/ThingMenu.svelte';
import When from '../parts/text/When.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { fits } from '../state/finding.js';
import { removing } from '../state/removing.svelte.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const servers = new Resource(() => api.listServers(), ['server']);
// A link with `?new` opens the form for a new one.
let making = $state(router.query.has('new'));
</script>

<ListHead
  title="Tool servers"
  about="External MCP servers. Attach one once, and every flow and agent can use its tools."
  make="Attach a tool server"
  onMake={() => (making = true)}
/>
<Loaded from={servers}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No tool servers yet">
        Paste its address, the settings of a client, or a command line. Pindro tests the server before it saves
        anything.
      </Empty>
    {:else}
      <Rows
        label="Tool servers"
        headings={['Server', 'State', 'Tools', 'Last seen', '']}
        items={items.filter((one) => fits(one.name, one.about, one.where))}
        remove={(one) => void removing.remove('server', one.name)}
      >
        {#snippet row(one)}
          <td>
            <NameCell sort="server" name={one.name} />
            <span class="block text-sm text-soft">{one.about || one.where}</span>
          </td>
          <td>
            <State state={one.state} />
            {#if one.trouble}<p class="mt-1 max-w-sm text-sm text-rowan">{one.trouble}</p>{/if}
          </td>
          <td class="whitespace-nowrap tabular-nums">
            {one.tools}
            {#if one.held > 0}<span class="chip text-ochre">{one.held} on hold</span>{/if}
          </td>
          <td class="whitespace-nowrap text-soft"><When at={one.seenAt} /></td>
          <td><ThingMenu sort="server" name={one.name} /></td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
{#if making}
  <Window bind:open={making} title="Attach a tool server">
    <AttachServer onMade={(name) => router.go(`/servers/${name}`)} />
  </Window>
{/if}
