<script lang="ts">
import Workflow from '@lucide/svelte/icons/workflow';
import Problem from '../parts/Problem.svelte';
import Window from '../parts/Window.svelte';
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
  const made = await api.flowOfRun({ id: run, body: { name } });
  router.go(`/flows/${made.name}`);
});
</script>

<button type="button" class="button" onclick={() => (open = true)}>
  <Workflow size={16} aria-hidden="true" /> Make a flow of it
</button>
{#if open}
  <Window bind:open title="Make a flow of what was done">
    <p class="mb-4 text-soft">
      Each call that went well becomes a step. What the message said becomes an input, what came back earlier is
      read from there. No model is asked any more.
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
      <button class="button button-main" disabled={make.busy}>{make.busy ? 'Making it …' : 'Make it'}</button>
    </form>
  </Window>
{/if}
