<script lang="ts">
import type { FlowDetail } from '@pindro/contract/light';
import { api } from '../../state/api.js';
import { words } from '../../state/format.js';
import { Action, Resource } from '../../state/resource.svelte.js';
import Code from '../text/Code.svelte';
import Problem from '../text/Problem.svelte';
import Settings from './Settings.svelte';
import Window from '../text/Window.svelte';

/** From a flow to a connected client in one go: publish, put it on an endpoint, make a key, show the settings. */
let { flow, open = $bindable() }: { flow: FlowDetail; open: boolean } = $props();

const endpoints = new Resource(() => api.listEndpoints(), ['endpoint']);
const uid = $props.id();
// svelte-ignore state_referenced_locally
let tool = $state(flow.name.replaceAll('-', '_'));
// svelte-ignore state_referenced_locally
let description = $state(flow.description.trim());
let caller = $state('first-client');
let chosen = $state('');
const endpoint = $derived(chosen || endpoints.value?.items[0]?.name || 'main');
const expose = new Action(() =>
  api.exposeFlow({
    name: flow.name,
    body: { endpoint, tool, caller, ...(description !== flow.description.trim() && { description }) },
  }),
);
</script>

<Window
  bind:open
  title="Expose {words(flow.name)}"
  about="Publishes the draft, adds it to an endpoint as a tool, and issues a key for one client."
>
  {#if expose.result}
    {@const done = expose.result}
    <p class="font-semibold text-spruce">
      Tool {done.tool} is on endpoint {done.endpoint.name}, revision {done.revision}.
    </p>
    <h3 class="mt-4 mb-1 font-semibold">Key for {caller}</h3>
    <p class="mb-2 text-sm text-soft">Shown only once. The settings below contain it.</p>
    <Code text={done.key} label="key" />
    <h3 class="mt-4 mb-2 font-semibold">Client settings</h3>
    <Settings settings={done.settings} />
    <p class="mt-4"><a class="link" href="/endpoints/{done.endpoint.name}">View the endpoint and its clients</a></p>
  {:else}
    <form
      onsubmit={(event) => {
        event.preventDefault();
        void expose.run();
      }}
    >
      <label class="label" for="{uid}-endpoint">Endpoint</label>
      <input
        id="{uid}-endpoint"
        class="field mb-4"
        list="{uid}-endpoints"
        value={endpoint}
        oninput={(event) => (chosen = event.currentTarget.value)}
        required
      />
      <datalist id="{uid}-endpoints"
        >{#each endpoints.value?.items ?? [] as one (one.name)}<option value={one.name}></option>{/each}</datalist
      >
      <label class="label" for="{uid}-tool">Name of the tool</label>
      <input
        id="{uid}-tool"
        class="field mb-4 font-mono"
        bind:value={tool}
        required
        pattern="[a-z][a-z0-9_]*"
        title="Lower-case letters, digits and _, starting with a letter"
      />
      <label class="label" for="{uid}-description">Description</label>
      <textarea id="{uid}-description" class="field mb-4" rows="3" bind:value={description} required></textarea>
      <label class="label" for="{uid}-caller">On whose behalf the key calls</label>
      <input id="{uid}-caller" class="field mb-4" bind:value={caller} required />
      {#if expose.problem}<div class="mb-4"><Problem problem={expose.problem} /></div>{/if}
      <button class="button button-main" disabled={expose.busy}>{expose.busy ? 'Exposing …' : 'Expose'}</button>
    </form>
  {/if}
</Window>
