<script lang="ts">
import Trash from '@lucide/svelte/icons/trash-2';
import { isObject, type JsonObject } from '@pindro/core/browser';
import type { Trial } from './trial.svelte.js';

/** Saved inputs: use, save, remove. */
let { trial }: { trial: Trial } = $props();
const uid = $props.id();
let name = $state('');
let chosen = $state('');

function take() {
  const one = trial.samples.find((kept) => kept.name === chosen);
  if (one && isObject(one.input)) trial.input = one.input as JsonObject;
}
async function keep() {
  await trial.keep(name.trim());
  chosen = name.trim();
  name = '';
}
</script>

{#if trial.samples.length > 0}
  <label class="label" for="{uid}-kept">Saved inputs</label>
  <div class="mb-3 flex gap-2">
    <select id="{uid}-kept" class="field" bind:value={chosen} onchange={take}>
      <option value="">choose one …</option>
      {#each trial.samples as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
    </select>
    {#if chosen}
      <button
        type="button"
        class="icon-button"
        aria-label="Remove saved input {chosen}"
        onclick={() => void trial.forget(chosen).then(() => (chosen = ''))}
        ><Trash size={16} aria-hidden="true" /></button
      >
    {/if}
  </div>
{/if}
{#if Object.keys(trial.input).length > 0}
  <form
    class="mb-4 flex gap-2"
    onsubmit={(event) => {
      event.preventDefault();
      void keep();
    }}
  >
    <label class="sr-only" for="{uid}-sample">Name of the saved input</label>
    <input id="{uid}-sample" class="field py-1" placeholder="save this input as …" bind:value={name} required />
    <button class="button button-small">Save</button>
  </form>
{/if}
