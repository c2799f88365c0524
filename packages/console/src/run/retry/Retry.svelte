<script lang="ts">
import ChevronDown from '@lucide/svelte/icons/chevron-down';
import RotateCw from '@lucide/svelte/icons/rotate-cw';
import type { RunDetail } from '@pindro/contract/light';
import type { JsonObject } from '@pindro/core/browser';
import { Popover } from 'bits-ui';
import Problem from '../../parts/text/Problem.svelte';
import Window from '../../parts/text/Window.svelte';
import { api } from '../../state/api.js';
import { Action, Resource } from '../../state/resource.svelte.js';
import { router } from '../../state/router.svelte.js';
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
let choosing = $state(false);
const uid = $props.id();
const VERSIONS = { draft: 'the draft', live: 'the live revision', ran: 'the original' };
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
  const outcome = await api.retryRun({ id: run.id, body: body });
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
/** What pressing Retry does, as a sentence. */
const sentence = $derived(
  [
    `on ${VERSIONS[on]}`,
    ...(from ? [`from step ${from}`] : []),
    ...(rounds > 0 && round ? [`round ${round}`] : []),
    ...(rounds > 0 && model ? [`with ${model}`] : []),
    ...(capture ? ['with exchanges'] : []),
  ].join(', '),
);
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
<Popover.Root bind:open={choosing}>
  <Popover.Trigger class="button" aria-label="Retry options: {sentence}" disabled={steps.length === 0}>
    <span>{sentence}</span><ChevronDown size={15} aria-hidden="true" />
  </Popover.Trigger>
  <Popover.Portal>
    <Popover.Content
      class="menu w-80 max-w-[94vw] p-4"
      align="end"
      sideOffset={6}
      aria-label="Retry options"
      role="dialog"
    >
      <div class="grid gap-3">
        <div>
          <label class="label" for="{uid}-on">Version to run</label>
          <select id="{uid}-on" class="field" bind:value={on}>
            {#each Object.entries(VERSIONS) as [value, words] (value)}<option {value}>{words}</option>{/each}
          </select>
        </div>
        <div>
          <label class="label" for="{uid}-from">Start from</label>
          <select id="{uid}-from" class="field" bind:value={from}>
            <option value="">the beginning</option>
            {#each steps as step (step)}<option value={step}>step {step}</option>{/each}
          </select>
        </div>
        {#if rounds > 0}
          <div>
            <label class="label" for="{uid}-round">Round</label>
            <select id="{uid}-round" class="field" bind:value={round}>
              <option value="">the first</option>
              {#each { length: rounds - 1 } as _, index (index)}<option value={String(index + 2)}
                  >{index + 2}</option
                >{/each}
            </select>
          </div>
          <div>
            <label class="label" for="{uid}-model">Model</label>
            <select id="{uid}-model" class="field" bind:value={model}>
              <option value="">its model</option>
              {#each models.value?.items ?? [] as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
            </select>
          </div>
        {/if}
        <label class="flex items-center gap-2">
          <input type="checkbox" class="tick" bind:checked={capture} />
          capture exchanges
        </label>
        <button
          type="button"
          class="button justify-center"
          onclick={() => {
            choosing = false;
            other = new Otherwise(run, from);
            changing = true;
          }}>With changes …</button
        >
      </div>
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
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
