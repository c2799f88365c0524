<script lang="ts">
import Loaded from '../parts/text/Loaded.svelte';
import When from '../parts/text/When.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { words } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import Value from '../values/Value.svelte';
import type { Row } from './grid.svelte.js';

/** A row whole, and which runs and people made it what it is. */
let { table, row, open = $bindable() }: { table: string; row: Row; open: boolean } = $props();
// svelte-ignore state_referenced_locally
const history = new Resource(() => api.rowHistory({ name: table, row: String(row.id) }), ['table']);
</script>

<Window bind:open title="Row {row.id} of {table}">
  <div class="mb-5 rounded-md bg-sunk p-3"><Value value={row} name="row" /></div>
  <h3 class="mb-2 font-semibold">History</h3>
  <Loaded from={history}>
    {#snippet children({ items })}
      <ol class="space-y-2 border-l-2 border-line pl-4">
        {#each items as one, index (index)}
          <li>
            <span class="font-medium">{one.did === 'added' ? 'Created' : 'Changed'}</span>
            {#if one.did === 'changed'}{one.columns.join(', ')}{/if}
            by {one.by}, <When at={one.at} />
            {#if one.run}
              <a class="link" href="/runs/{one.run}">in the run, step {words(one.step ?? '')}</a>
            {/if}
          </li>
        {:else}
          <li class="text-soft">No history: the row is older than the history, or comes from a file.</li>
        {/each}
      </ol>
    {/snippet}
  </Loaded>
</Window>
