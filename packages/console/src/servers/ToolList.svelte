<script lang="ts">
import type { ServerDetail } from '@pindro/contract/light';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import ServerTool from './ServerTool.svelte';

/** The tools of a server, including those on hold. */
let { server }: { server: ServerDetail } = $props();
const samples = new Resource(() => api.listServerSamples({ name: server.name }), ['server']);
let find = $state('');
const wanted = $derived(router.query.get('tool'));
const fitting = $derived(
  server.toolList.filter((one) =>
    `${one.name} ${one.description}`.toLowerCase().includes(find.trim().toLowerCase()),
  ),
);
</script>

<div class="mb-2 flex flex-wrap items-center gap-3">
  <h2>{plural(server.toolList.length, 'tool')}</h2>
  {#if server.toolList.length > 8}
    <input
      class="field max-w-64 py-1"
      type="search"
      aria-label="Find a tool"
      placeholder="Search"
      bind:value={find}
    />
  {/if}
</div>
{#if server.heldTools.length > 0}
  <p class="mb-3 rounded-md bg-ochre-wash px-4 py-2 text-ochre">
    {server.heldTools.map(({ name }) => name).join(', ')}
    {server.heldTools.length === 1 ? 'is' : 'are'} on hold.
    <a class="link" href="/servers/{server.name}?view=changes">Review changes</a>
  </p>
{/if}
<ul class="space-y-3">
  {#each fitting as tool (tool.name)}
    <ServerTool
      {server}
      {tool}
      samples={(samples.value?.items ?? []).filter((one) => one.tool === tool.name)}
      begun={tool.name === wanted}
    />
  {/each}
</ul>
