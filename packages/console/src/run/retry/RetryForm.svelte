<script lang="ts">
import type { JsonObject } from '@pindro/core/browser';
import SchemaForm from '../../forms/SchemaForm.svelte';
import { type Otherwise, schemaOfValue } from './retry.svelte.js';

interface Props {
  other: Otherwise;
  busy: boolean;
  /** @param body what of it is another this time */
  onRun: (body: JsonObject) => void;
}
/** Says what is another when a run is done again. */
let { other, busy, onRun }: Props = $props();
const { input, config, answers } = $derived(other.was);
</script>

<form
  onsubmit={(event) => {
    event.preventDefault();
    onRun(other.body);
  }}
>
  {#if input}
    <h3 class="mb-2 font-semibold">Input of the flow</h3>
    <SchemaForm schema={schemaOfValue(input)} bind:value={other.input} />
  {/if}
  {#if config}
    <h3 class="mt-4 mb-2 font-semibold">Input of step {other.from} for this run</h3>
    <SchemaForm schema={schemaOfValue(config)} bind:value={other.config} />
  {/if}
  {#if Object.keys(answers).length > 0}
    <h3 class="mt-4 mb-2 font-semibold">Tool results</h3>
    <SchemaForm schema={schemaOfValue(answers)} bind:value={other.answers} />
  {/if}
  {#if other.from === ''}
    <p class="hint mt-3">Choose a step in “Start from” to change its input, or the tool results of its agent.</p>
  {/if}
  <button class="button button-main mt-4" disabled={busy || Object.keys(other.body).length === 0}>
    {busy ? 'Running …' : 'Run with changes'}
  </button>
</form>
