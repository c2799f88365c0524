<script lang="ts">
import { Keyring } from '../keys/keyring.svelte.js';
import KeyRows from '../keys/KeyRows.svelte';
import MakeKey from '../keys/MakeKey.svelte';
import { keySchema } from '../keys/schema.js';
import Empty from '../parts/list/Empty.svelte';
import ListHead from '../parts/list/ListHead.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { fits } from '../state/finding.js';
import { Resource } from '../state/resource.svelte.js';

const keys = new Resource(() => api.listKeys(), ['key', 'client']);
const ring = new Keyring();
let making = $state(false);
</script>

<ListHead
  title="Keys"
  about="Keys for clients: the caller, the scope and the expiry of each."
  make="Issue key"
  onMake={() => (making = true)}
/>
<Loaded from={keys}>
  {#snippet children({ items })}
    {#if items.length === 0 && !ring.made}
      <Empty title="No keys yet">Clients need a key to call the tools of an endpoint.</Empty>
    {:else}
      <KeyRows
        keys={items.filter((one) => fits(one.name, one.caller, one.endpoints.join(' '), one.beginning))}
        {ring}
        everywhere
      />
    {/if}
  {/snippet}
</Loaded>
{#if making}
  <Window bind:open={making} title="Issue key">
    <MakeKey
      {ring}
      schema={keySchema({ tools: [], ownServers: [], workshop: false })}
      onMade={() => (making = false)}
    />
  </Window>
{/if}
