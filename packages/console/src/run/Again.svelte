<script lang="ts">
import RotateCw from '@lucide/svelte/icons/rotate-cw';
import type { RunDetail } from '@pindro/contract/light';
import Problem from '../parts/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

/** Doing a run again: on what, from where, and whether it may do for real what makes a difference. */
let { run }: { run: RunDetail } = $props();
let on = $state<'draft' | 'live' | 'ran'>('draft');
let from = $state('');
const again = new Action(async (live: boolean) => {
  const body = { on, ...(from && { from, live }) };
  const outcome = await api.runAgain({ id: run.id, body });
  router.go(`/runs/${outcome.run}`);
});
const steps = $derived(run.cards.map(({ name }) => name));
const asksFirst = $derived(again.problem?.code === 'live_steps');
</script>

<button
  type="button"
  class="button button-main"
  disabled={again.busy || steps.length === 0}
  onclick={() => void again.run(false)}
>
  <RotateCw size={16} aria-hidden="true" />
  {again.busy ? 'Running …' : 'Run again'}
</button>
<span class="flex items-center gap-2">
  <span aria-hidden="true">on</span>
  <select class="field w-auto" aria-label="What is run" bind:value={on}>
    <option value="draft">the draft</option>
    <option value="live">what is live</option>
    <option value="ran">what ran</option>
  </select>
</span>
<span class="flex items-center gap-2">
  <span aria-hidden="true">from</span>
  <select class="field w-auto" aria-label="From where" bind:value={from}>
    <option value="">the beginning</option>
    {#each steps as step (step)}<option value={step}>step {step}</option>{/each}
  </select>
</span>
{#if again.problem}
  <div class="basis-full">
    {#if asksFirst}
      <div class="rounded-lg border border-ochre/40 bg-ochre-wash p-4" role="alert">
        <p>{again.problem.title}. All that stands before it is taken from the record.</p>
        <button
          type="button"
          class="button button-small mt-2"
          disabled={again.busy}
          onclick={() => void again.run(true)}
        >
          Do it for real
        </button>
      </div>
    {:else}<Problem problem={again.problem} />{/if}
  </div>
{/if}
