<script lang="ts">
import State from '../parts/text/State.svelte';
import type { Status } from './status.js';

/** What stands outside: tool servers and models, and whether they answer. */
let { status }: { status: Status } = $props();
</script>

{#if status.servers.length + status.models.length > 0}
  <section class="panel mb-6 flex flex-wrap items-center gap-x-6 gap-y-2" aria-labelledby="outside">
    <h2 id="outside" class="text-base">Connections</h2>
    {#each status.servers as server (server.name)}
      <span class="flex items-center gap-2">
        <a class="link" href="/servers/{server.name}">{server.name}</a><State state={server.state} />
      </span>
    {/each}
    {#each status.models as model (model.name)}
      <span class="flex items-center gap-2">
        <a class="link" href="/models?open={model.name}">{model.name}</a>
        <State state={model.trouble ? 'unreachable' : 'ready'} label={model.trouble ? 'failing' : 'ready'} />
      </span>
    {/each}
  </section>
{/if}
