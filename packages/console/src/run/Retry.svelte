<script lang="ts">
import RotateCw from '@lucide/svelte/icons/rotate-cw';
import type { RunDetail } from '@pindro/contract/light';
import type { JsonObject } from '@pindro/core/browser';
import Problem from '../parts/Problem.svelte';
import Window from '../parts/Window.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import { Otherwise } from './retry.svelte.js';
import RetryForm from './RetryForm.svelte';

/** Doing a run again: on what, from where, and whether it may do for real what makes a difference. */
let { run }: { run: RunDetail } = $props();
let on = $state<'draft' | 'live' | 'ran'>('draft');
let from = $state('');
/** From which round of its agent on, and with which model; empty: as it was. */
let round = $state('');
let model = $state('');
/** Whether all exchanges are captured. */
let capture = $state(false);
/** What else is another, where it is done differently; asked for once more where it is to be done for real. */
let otherwise = $state.raw<JsonObject>({});
let changing = $state(false);
let other = $state.raw<Otherwise | null>(null);
const again = new Action(async (live: boolean) => {
  const body = {
    on,
    ...(from && { from, live }),
    ...(rounds > 0 && round && { round: Number(round) }),
    ...(rounds > 0 && model && { model }),
    ...(capture && { capture }),
    ...otherwise,
  };
  const outcome = await api.retryRun({ id: run.id, body: body as never });
  changing = false;
  router.go(`/runs/${outcome.run}`);
});
const steps = $derived(run.cards.map(({ name }) => name));
/** Rounds of the model of the selected step; none without a model. */
const rounds = $derived.by(() => {
  const step = run.spans.find(({ work, name, run: own }) => work === 'step' && name === from && own === run.id);
  const agent = run.spans.find(({ work, parentId }) => work === 'agent' && parentId === step?.spanId);
  return agent ? run.spans.filter(({ work, parentId }) => work === 'model' && parentId === agent.spanId).length : 0;
});
const models = new Resource(() => (rounds > 0 ? api.listModels() : Promise.resolve(null)), ['model']);
const asksFirst = $derived(again.problem?.code === 'live_steps');
</script>

<button
  type="button"
  class="button button-main"
  disabled={again.busy || steps.length === 0}
  onclick={() => {
    otherwise = {};
    void again.run(false);
  }}
>
  <RotateCw size={16} aria-hidden="true" />
  {again.busy ? 'Running …' : 'Retry'}
</button>
<span class="flex items-center gap-2">
  <span aria-hidden="true">on</span>
  <select class="field w-auto" aria-label="Version to run" bind:value={on}>
    <option value="draft">the draft</option>
    <option value="live">the live revision</option>
    <option value="ran">the original</option>
  </select>
</span>
<span class="flex items-center gap-2">
  <span aria-hidden="true">from</span>
  <select class="field w-auto" aria-label="Start from" bind:value={from}>
    <option value="">the beginning</option>
    {#each steps as step (step)}<option value={step}>step {step}</option>{/each}
  </select>
</span>
{#if rounds > 0}
  <span class="flex items-center gap-2">
    <span aria-hidden="true">round</span>
    <select class="field w-auto" aria-label="Round" bind:value={round}>
      <option value="">the first</option>
      {#each { length: rounds - 1 } as _, index (index)}<option value={String(index + 2)}>{index + 2}</option
        >{/each}
    </select>
  </span>
  <span class="flex items-center gap-2">
    <span aria-hidden="true">with</span>
    <select class="field w-auto" aria-label="Model" bind:value={model}>
      <option value="">its model</option>
      {#each models.value?.items ?? [] as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
    </select>
  </span>
{/if}
<label class="flex items-center gap-2">
  <input type="checkbox" bind:checked={capture} />
  capture exchanges
</label>
<button
  type="button"
  class="button"
  onclick={() => {
    other = new Otherwise(run, from);
    changing = true;
  }}>With changes …</button
>
<Window bind:open={changing} title="Rerun with changes" about="The changes apply to this run only.">
  {#if other}
    <RetryForm
      {other}
      busy={again.busy}
      onRun={(body) => {
        otherwise = body;
        void again.run(false);
      }}
    />
  {/if}
  {@render refused()}
</Window>
{#if again.problem && !changing}<div class="basis-full">{@render refused()}</div>{/if}
{#snippet refused()}
  {#if again.problem && asksFirst}
    <div class="mt-4 rounded-lg border border-ochre/40 bg-ochre-wash p-4" role="alert">
      <p>{again.problem.detail}. Earlier steps are replayed from the recording.</p>
      <button
        type="button"
        class="button button-small mt-2"
        disabled={again.busy}
        onclick={() => void again.run(true)}
      >
        Repeat side effects
      </button>
    </div>
  {:else if again.problem}<div class="mt-4"><Problem problem={again.problem} /></div>{/if}
{/snippet}
