<script lang="ts">
import Workflow from '@lucide/svelte/icons/workflow';
import Problem from '../parts/text/Problem.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

/** Makes a flow of what an agent did, so that it can be done without a model. */
let { run, flow }: { run: string; flow: string } = $props();
const uid = $props.id();
let open = $state(false);
// svelte-ignore state_referenced_locally
let name = $state(`${flow}-steps`);
const make = new Action(async () => {
  const made = await api.createFlowFromRun({ id: run, body: { name } });
  router.go(`/flows/${made.name}`);
});
</script>

<button type="button" class="button" onclick={() => (open = true)}>
  <Workflow size={16} aria-hidden="true" /> Create flow
</button>
{#if open}
  <Window bind:open title="Create a flow from these calls">
    <p class="mb-4 text-soft">
      Each successful call becomes a step. Values from the message become inputs, and values from earlier results
      become references. The flow uses no model.
    </p>
    <form
      onsubmit={(event) => {
        event.preventDefault();
        void make.run();
      }}
    >
      <label class="label" for="{uid}-name">Name of the flow</label>
      <input id="{uid}-name" class="field mb-3" bind:value={name} required pattern="[a-z][a-z0-9-]*" />
      {#if make.problem}<div class="mb-3"><Problem problem={make.problem} /></div>{/if}
      <button class="button button-main" disabled={make.busy}>{make.busy ? 'Creating …' : 'Create'}</button>
    </form>
  </Window>
{/if}
