<script lang="ts">
import { plural } from '../state/format.js';
import { Action } from '../state/resource.svelte.js';
import Value from './Value.svelte';

interface Props {
  characters: number;
  beginning: string;
  name: string;
  whole?: (() => Promise<unknown>) | undefined;
}
/** A value that was too long to keep or to send: how long it is, how it begins, and all of it on a click. */
let { characters, beginning, name, whole }: Props = $props();
const load = new Action(async () => ({ value: await whole!() }));
/** Drawn as a tree it would keep the page busy; as text the browser manages. */
const HUGE = 2_000_000;
</script>

{#if load.result}
  {#if characters > HUGE}
    <textarea class="field font-mono text-sm" rows="12" readonly aria-label="{name}, in full"
      >{JSON.stringify(load.result.value, null, 1)}</textarea
    >
  {:else}
    <Value value={load.result.value} {name} />
  {/if}
{:else}
  <p class="text-sm text-ochre">{plural(characters, 'character')} of JSON; this is the beginning.</p>
  <pre class="value-json">{beginning.slice(0, 600)} …</pre>
  {#if whole}
    <button type="button" class="button button-small mt-1" disabled={load.busy} onclick={() => void load.run()}>
      {load.busy ? 'Loading …' : 'Load in full'}
    </button>
    {#if load.problem}<p class="fault">{load.problem.detail}</p>{/if}
  {:else}
    <p class="hint">The rest was not recorded.</p>
  {/if}
{/if}
