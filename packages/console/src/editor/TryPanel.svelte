<script lang="ts">
import Footprints from '@lucide/svelte/icons/footprints';
import Play from '@lucide/svelte/icons/play';
import Square from '@lucide/svelte/icons/square';
import type { FlowDetail } from '@pindro/contract';
import { isObject, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import SchemaForm from '../forms/SchemaForm.svelte';
import Problem from '../parts/Problem.svelte';
import State from '../parts/State.svelte';
import Value from '../parts/Value.svelte';
import { api } from '../state/api.js';
import { plural, words } from '../state/format.js';
import { Action } from '../state/resource.svelte.js';
import type { Editor } from './session.svelte.js';
import type { Trial } from './trial.svelte.js';

/** Trying the flow: its inputs, running it whole or step by step, and what came out. */
let { editor, trial, flow }: { editor: Editor; trial: Trial; flow: FlowDetail } = $props();
const uid = $props.id();
let sample = $state('');
const schema = $derived((editor.document.input ?? { type: 'object', properties: {} }) as JsonSchema);
const live = new Action(() => api.runFlow({ name: editor.name, body: { input: trial.input as never, stage: 'live' } }));
const outcome = $derived(live.result && !trial.outcome ? live.result : trial.outcome);
function take(name: string) {
  const one = trial.samples.find((kept) => kept.name === name);
  if (one && isObject(one.input)) trial.input = one.input as JsonObject;
}
</script>

{#if trial.samples.length > 0}
  <label class="label" for="{uid}-kept">Kept inputs</label>
  <select id="{uid}-kept" class="field mb-4" onchange={(event) => take(event.currentTarget.value)}><option value="">take one over …</option>{#each trial.samples as one (one.name)}<option>{one.name}</option>{/each}</select>
{/if}
<form onsubmit={(event) => { event.preventDefault(); live.result = undefined; void trial.run(); }}>
  <SchemaForm {schema} bind:value={trial.input} />
  {#if trial.held.length > 0}<p class="mb-3 rounded-md bg-ochre-wash px-3 py-2 text-sm text-ochre">{plural(trial.held.length, 'step')} will use a held result: {trial.held.map(words).join(', ')}.</p>{/if}
  <div class="flex flex-wrap gap-2">
    <button class="button button-main" disabled={trial.busy}><Play size={16} aria-hidden="true" /> {trial.busy ? 'Running …' : 'Run'}</button>
    <button type="button" class="button" disabled={trial.busy} onclick={() => { live.result = undefined; void trial.run(true); }}><Footprints size={16} aria-hidden="true" /> Step by step</button>
    {#if flow.revision !== null}<button type="button" class="button" disabled={live.busy} onclick={() => { trial.outcome = null; void live.run(); }}>{live.busy ? 'Running …' : 'Run live'}</button>{/if}
  </div>
</form>
<div aria-live="polite" class="mt-4 space-y-2">
  {#if trial.waiting.length > 0}
    <div class="rounded-md bg-ochre-wash p-3">
      <p class="mb-2 font-medium text-ochre">Waits before {trial.waiting.map(words).join(', ')}</p>
      <div class="flex gap-2"><button type="button" class="button button-main" onclick={() => void trial.goOn(true)}><Play size={15} aria-hidden="true" /> Go on</button><button type="button" class="button" onclick={() => void trial.goOn(false)}><Square size={15} aria-hidden="true" /> Stop here</button></div>
    </div>
  {/if}
  {#if trial.problem}<Problem problem={trial.problem} />{/if}
  {#if live.problem}<Problem problem={live.problem} />{/if}
  {#if outcome}
    {#if outcome.error}<Problem problem={{ type: '', status: 0, code: outcome.error.code, title: outcome.error.message, hint: outcome.error.hint }} />
    {:else}<State state={outcome.state} />{#if outcome.waitsFor}<p>{outcome.waitsFor.what}. <a class="link" href="/approvals">See what waits</a></p>{:else}<Value value={outcome.result} name="result" />{/if}{/if}
    <p><a class="link" href="/runs/{outcome.run}">See what each step did</a></p>
  {/if}
</div>
{#if Object.keys(trial.input).length > 0}
  <form class="mt-5 flex gap-2" onsubmit={(event) => { event.preventDefault(); void trial.keep(sample); sample = ''; }}>
    <label class="sr-only" for="{uid}-sample">Name to keep this input under</label>
    <input id="{uid}-sample" class="field py-1" placeholder="keep this input as …" bind:value={sample} required />
    <button class="button py-1">Keep</button>
  </form>
{/if}
