<script lang="ts">
import AttachServer from '../attach/AttachServer.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import ResourceList from '../parts/list/ResourceList.svelte';
import State from '../parts/text/State.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const servers = new Resource(() => api.listServers(), ['server']);
</script>

<ResourceList
  type="server"
  title="Tool servers"
  about="External MCP servers. Attach one once, and every flow and agent can use its tools."
  from={servers}
  headings={['Server', 'State', 'Tools', 'Last seen']}
  words={(one) => [one.name, one.about, one.where]}
  make="Attach a tool server"
>
  {#snippet empty()}
    Paste its address, the settings of a client, or a command line. Pindro tests the server before it saves
    anything.
  {/snippet}
  {#snippet cells(one)}
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
  {/snippet}
  {#snippet form()}<AttachServer onMade={(name) => router.go(`/servers/${name}`)} />{/snippet}
</ResourceList>
