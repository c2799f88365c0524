<script lang="ts">
import MakeEndpoint from '../make/MakeEndpoint.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import ResourceList from '../parts/list/ResourceList.svelte';
import State from '../parts/text/State.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import WorkshopLink from '../workshop/WorkshopLink.svelte';

const endpoints = new Resource(() => api.listEndpoints(), ['endpoint', 'key', 'client', 'flow']);
</script>

<ResourceList
  type="endpoint"
  title="Endpoints"
  about="Each endpoint is one MCP server at one address, with the tools you chose for it."
  from={endpoints}
  headings={['Endpoint', 'Address', 'Tools', 'Keys', 'Connected clients']}
  words={(one) => [one.name, one.title, one.description]}
  make="New endpoint"
>
  {#snippet empty()}
    Open a <a class="link" href="/flows">flow</a> and use “Expose” to create an endpoint, a key and client settings.
  {/snippet}
  {#snippet cells(one)}
    <td>
      <NameCell sort="endpoint" name={one.name} title={one.title} />
      {#if !one.on}<State state="cancelled" label="disabled" />{/if}
    </td>
    <td class="font-mono text-sm">{one.url}</td>
    <td class="tabular-nums">{one.tools}</td>
    <td class="tabular-nums">{one.keys}</td>
    <td class="tabular-nums">{one.sessions}</td>
  {/snippet}
  {#snippet form()}<MakeEndpoint onMade={(name) => router.go(`/endpoints/${name}`)} />{/snippet}
</ResourceList>
<WorkshopLink />
