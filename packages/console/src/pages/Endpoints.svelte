<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import Rows from '../parts/Rows.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const uid = $props.id();
let name = $state('');
let making = $state(false);
const make = new Action(async () => {
  await api.putEndpoint({
    body: { document: { format: 'pindro/endpoint@1', name, title: name.replaceAll('-', ' ') } },
  });
  router.go(`/endpoints/${name}`);
});
const workshop = new Resource(() => api.getWorkshop(), ['workshop', 'flow']);
const endpoints = new Resource(() => api.listEndpoints(), ['endpoint', 'key', 'client', 'flow']);
</script>

<PageHead title="Endpoints" about="Each endpoint is one MCP server at one address, with the tools you chose for it.">
  {#snippet actions()}<button type="button" class="button" aria-expanded={making} onclick={() => (making = !making)}
      ><Plus size={16} aria-hidden="true" /> New endpoint</button
    >{/snippet}
</PageHead>
{#if making}
  <form
    class="panel mb-6"
    onsubmit={(event) => {
      event.preventDefault();
      void make.run();
    }}
  >
    <label class="label" for="{uid}-name">Name in its address</label>
    <div class="flex flex-wrap gap-2">
      <input id="{uid}-name" class="field max-w-80 font-mono" bind:value={name} required placeholder="wardens" /><button
        class="button button-main"
        disabled={make.busy}>Make it</button
      >
    </div>
    {#if make.problem}<div class="mt-3"><Problem problem={make.problem} /></div>{/if}
  </form>
{/if}
<Loaded from={endpoints}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No endpoint yet"
        >Open a <a class="link" href="/flows">flow</a> and press Expose: that makes an endpoint, a key and the settings for
        a client.</Empty
      >
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
{#if workshop.value}
  {@const { on, flows, proposals } = workshop.value}
  {@const open = flows.filter((flow) => flow.open).length}
  {@const waiting = proposals.filter(({ state }) => state === 'open').length}
  <section class="panel mt-6 flex flex-wrap items-center justify-between gap-3">
    <div>
      <h2><a class="link" href="/endpoints/workshop">Workshop for coding assistants</a></h2>
      <p class="text-soft">
        {on
          ? `On. ${plural(open, 'flow')} open to assistants.`
          : 'Built in, and switched off. It lets assistants read, call and examine flows that you open to them.'}
      </p>
    </div>
    {#if waiting > 0}<a class="link font-medium text-ochre" href="/endpoints/workshop?view=proposals"
        >{plural(waiting, 'proposal')} to look at</a
      >{/if}
  </section>
{/if}
