<script lang="ts">
import { brief } from '../state/format.js';
import type { Reachable } from './reach.js';

/** The data that is there, with its values in the last run; a click takes one over. */
let { data, onPick }: { data: Reachable[]; onPick: (one: Reachable) => void } = $props();
let text = $state('');
const uid = $props.id();
const shown = $derived(
  data
    .filter((one) => `${one.path} ${brief(one.value ?? '', 200)}`.toLowerCase().includes(text.toLowerCase()))
    .slice(0, 150),
);
const depth = (path: string) => (path.match(/[.[]/g)?.length ?? 1) - 1;
</script>

<div class="mt-2 rounded-md border border-line p-2">
  <label class="sr-only" for="{uid}-find">Find a value</label>
  <input id="{uid}-find" class="field mb-2 py-1 text-sm" placeholder="Find a value" bind:value={text} />
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <ul class="max-h-72 overflow-auto" role="list" aria-label="Available data" tabindex="0">
    {#each shown as one (one.path)}
      <li>
        <button
          type="button"
          class="flex w-full justify-between gap-3 rounded px-1.5 py-0.5 text-left text-sm hover:bg-spruce-wash"
          style="padding-left: {0.4 + depth(one.path) * 0.7}rem"
          onclick={() => onPick(one)}
        >
          <span class="font-mono text-[0.82rem] wrap-anywhere">{one.path}</span><span
            class="max-w-[50%] truncate text-soft"
            >{one.value === undefined ? one.about : brief(one.value, 40)}</span
          >
        </button>
      </li>
    {/each}
  </ul>
  {#if shown.length === 0}<p class="text-sm text-soft">
      No matching data. Run the flow once to see its values.
    </p>{/if}
</div>
