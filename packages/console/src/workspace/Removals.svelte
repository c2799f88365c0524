<script lang="ts">
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { restoreRemoved } from '../state/removing.svelte.js';
import { Resource } from '../state/resource.svelte.js';

/** Recent removals, which anybody can restore. */
const CHANGES = [
  'flow',
  'endpoint',
  'server',
  'model',
  'credential',
  'key',
  'table',
  'entry',
  'person',
  'document',
];
const removals = new Resource(() => api.listRemovals(), CHANGES);
const back = async (id: string) => {
  await restoreRemoved(id).run();
  await removals.refresh();
};
</script>

{#if (removals.value?.items.length ?? 0) > 0}
  <section class="mt-8" aria-labelledby="removed">
    <h2 id="removed" class="mb-2">Removed in the last ten minutes</h2>
    <ul class="divide-y divide-line rounded-lg border border-line bg-card">
      {#each removals.value!.items as one (one.id)}
        <li class="flex flex-wrap items-center justify-between gap-3 px-4 py-2">
          <span>{one.what} {one.name} <span class="text-soft">by {one.by}, <When at={one.removedAt} /></span></span>
          <button type="button" class="button button-small" onclick={() => void back(one.id)}>Undo</button>
        </li>
      {/each}
    </ul>
  </section>
{/if}
