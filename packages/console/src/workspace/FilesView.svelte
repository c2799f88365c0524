<script lang="ts">
import Lines from '../parts/text/Lines.svelte';
import Problem from '../parts/text/Problem.svelte';
import State from '../parts/text/State.svelte';
import { plural } from '../state/format.js';
import type { ImportSelection } from './import-selection.svelte.js';
import ImportResult from './ImportResult.svelte';

/** How the files differ from what is here, and taking them in. */
let { parcel }: { parcel: ImportSelection } = $props();
const STATES = { added: 'done', removed: 'cancelled', changed: 'changed', same: 'off' } as const;
const WORDS = { added: 'new', removed: 'only here', changed: 'differs', same: 'the same' } as const;
const taken = $derived(parcel.changes.filter((one) => one.change !== 'removed'));
const differs = $derived(taken.some((one) => one.change === 'changed'));
</script>

<section class="mt-6" aria-labelledby="difference">
  <h2 id="difference" class="mb-2">
    {taken.length === 0 ? 'The files do not differ from the workspace' : plural(taken.length, 'difference')}
  </h2>
  <ul class="mb-4 divide-y divide-line rounded-lg border border-line bg-card">
    {#each parcel.changes as one (one.path)}
      <li class="px-4 py-2">
        <details>
          <summary class="flex cursor-pointer items-center gap-3">
            <State state={STATES[one.change]} label={WORDS[one.change]} />
            <span class="font-mono text-sm wrap-anywhere">{one.path}</span>
          </summary>
          <div class="mt-2"><Lines lines={one.lines} label="Differences in {one.path}" /></div>
        </details>
      </li>
    {/each}
  </ul>
  {#if parcel.take.problem}<div class="mb-4"><Problem problem={parcel.take.problem} /></div>{/if}
  {#if parcel.take.result}
    <ImportResult taken={parcel.take.result} />
  {:else if taken.length > 0}
    <div class="flex flex-wrap items-center gap-2">
      <button
        type="button"
        class="button button-main"
        disabled={parcel.take.busy}
        onclick={() => void parcel.take.run(false)}>{parcel.take.busy ? 'Importing …' : 'Import new files'}</button
      >
      {#if differs}
        <button type="button" class="button" disabled={parcel.take.busy} onclick={() => void parcel.take.run(true)}>
          Import and overwrite
        </button>
      {/if}
      <button type="button" class="button" onclick={() => parcel.leave()}>Cancel</button>
      <span class="text-sm text-soft">All or nothing. What exists only here remains.</span>
    </div>
  {/if}
</section>
