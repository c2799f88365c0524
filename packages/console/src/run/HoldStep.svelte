<script lang="ts">
import Problem from '../parts/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

/** Holds what a step left in a run, for later tries of the draft. */
let { flow, step, run }: { flow: string; step: string; run: string } = $props();
const hold = new Action(() => api.holdStep({ name: flow, step, body: { run } }));
let held = $state(false);
async function keep() {
  await hold.run();
  held = hold.problem === null;
}
</script>

{#if held}
  <p class="text-sm text-spruce" role="status">
    Held: tries of the <a class="link" href="/flows/{flow}">draft</a> can use it in place of doing the step.
  </p>
{:else}
  <button type="button" class="button button-small" disabled={hold.busy} onclick={() => void keep()}
    >Hold this result</button
  >
{/if}
{#if hold.problem}<Problem problem={hold.problem} />{/if}
