<script lang="ts">
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import RecordSize from '../parts/RecordSize.svelte';
import RunRows from '../parts/RunRows.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';

const status = new Resource(() => api.status(), ['flow', 'endpoint', 'server', 'model', 'run']);
const failed = new Resource(() => api.listRuns({ query: { state: 'failed', roots: 'true', limit: 5 } }), ['run']);
const recent = new Resource(() => api.listRuns({ query: { roots: 'true', limit: 8 } }), ['run']);
</script>

<PageHead title="Overview" about="What stands ready, what runs, and what needs a look." />
<Loaded from={status}>
  {#snippet children(now)}
    <ul class="mb-8 grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
      <li class="panel">
        <a class="block" href="/flows"
          ><span class="block text-2xl font-bold">{now.flows}</span>{plural(now.flows, 'flow').replace(/^\d+ /, '')}</a
        >
      </li>
      <li class="panel">
        <a class="block" href="/endpoints"
          ><span class="block text-2xl font-bold">{now.endpoints}</span>{plural(now.endpoints, 'endpoint').replace(
            /^\d+ /,
            '',
          )} for clients</a
        >
      </li>
      <li class="panel">
        <a class="block" href="/runs"
          ><span class="block text-2xl font-bold">{now.runs}</span>runs, {now.running} under way{now.queued > 0
            ? `, ${now.queued} queued`
            : ''}</a
        ><RecordSize of={now.record} trouble={now.trouble} />
      </li>
      <li class="panel">
        <h2 class="mb-1 text-sm font-medium text-soft">Outside</h2>
        <ul class="space-y-1">
          {#each now.servers as server (server.name)}
            <li class="flex items-center justify-between gap-2">
              <a class="link" href="/servers/{server.name}">{server.name}</a><State state={server.state} />
            </li>
          {/each}
          {#each now.models as model (model.name)}
            <li class="flex items-center justify-between gap-2">
              <a class="link" href="/models">{model.name}</a><State state={model.trouble ? 'unreachable' : 'ready'} />
            </li>
          {/each}
          {#if now.servers.length + now.models.length === 0}<li class="text-soft">
              No tool server and no model yet.
            </li>{/if}
        </ul>
      </li>
    </ul>
    {#if now.flows === 0}
      <Empty title="No flow yet"
        >Import your first with <code class="chip">pindro flow import FILE</code>, then run it here and expose it as a
        tool.</Empty
      >
    {/if}
  {/snippet}
</Loaded>
<Loaded from={failed}>
  {#snippet children(page)}
    {#if page.items.length > 0}
      <h2 class="mb-2">Failed lately</h2>
      <ul class="mb-8 space-y-2">
        {#each page.items as run (run.id)}
          <li>
            <a
              href="/runs/{run.id}"
              class="block rounded-lg border border-rowan/40 bg-rowan-wash px-4 py-2.5 hover:border-rowan"
              ><span class="font-semibold">{run.flow}</span> <span class="text-soft">for {run.caller}</span><br /><span
                class="text-rowan">{run.title}</span
              ></a
            >
          </li>
        {/each}
      </ul>
    {/if}
  {/snippet}
</Loaded>
<Loaded from={recent}>
  {#snippet children(page)}
    {#if page.items.length > 0}
      <h2 class="mb-2">Latest runs</h2>
      <RunRows runs={page.items} />
    {/if}
  {/snippet}
</Loaded>
