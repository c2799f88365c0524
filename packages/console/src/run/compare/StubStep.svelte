<script lang="ts">
import Problem from '../../parts/text/Problem.svelte';
import { api } from '../../state/api.js';
import { Action } from '../../state/resource.svelte.js';

/** Holds what a step left in a run, for later tries of the draft. */
let { flow, step, run }: { flow: string; step: string; run: string } = $props();
const hold = new Action(() => api.stubStep({ name: flow, step, body: { run } }));
let held = $state(false);
async function keep() {
  await hold.run();
  held = hold.problem === null;
}
</script>

{#if held}
  <p class="text-sm text-spruce" role="status">
    Stubbed: trials of the <a class="link" href="/flows/{flow}">draft</a> can use it instead of running the step.
  </p>
{:else}
  <button type="button" class="button button-small" disabled={hold.busy} onclick={() => void keep()}
    >Stub this result</button
  >
{/if}
{#if hold.problem}<Problem problem={hold.problem} />{/if}
