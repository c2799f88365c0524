<script lang="ts">
import Gaps from './Gaps.svelte';

interface Taken {
  done: string[];
  refused: { path: string; mistakes: { message: string }[] }[];
  gaps: { what: string; command: string }[];
}
/** What was imported, what was not and why, and what only a person can supply. */
let { taken }: { taken: Taken } = $props();
</script>

<div role="status" class="space-y-4">
  {#if taken.refused.length > 0}
    <div class="rounded-lg bg-rowan-wash p-4">
      <p class="font-semibold text-rowan">Nothing was imported</p>
      <ul class="mt-1 list-disc pl-5">
        {#each taken.refused as one (one.path)}
          <li>
            <span class="font-mono text-sm">{one.path}</span>: {one.mistakes.map((m) => m.message).join('; ')}
          </li>
        {/each}
      </ul>
    </div>
  {:else}
    <p class="font-semibold text-spruce">Imported: {taken.done.join(', ') || 'nothing new'}.</p>
  {/if}
  <Gaps gaps={taken.gaps} />
</div>
