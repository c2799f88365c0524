<script lang="ts">
import Ellipsis from '@lucide/svelte/icons/ellipsis';
import { router } from '../../state/router.svelte.js';
import LabelsWindow from './LabelsWindow.svelte';

/** Labels that flows carry: one is chosen, and stays in the address. */
let { labels, label }: { labels: string[]; label: string } = $props();
let open = $state(false);
const choose = (one: string) => router.filter({ ...Object.fromEntries(router.query), label: one });
</script>

{#if labels.length > 0}
  <div class="mb-3 flex flex-wrap items-center gap-2" role="group" aria-label="Labels">
    {#each ['', ...labels] as one (one)}
      <button type="button" class="label-chip" aria-pressed={label === one} onclick={() => choose(one)}>
        {one || 'all'}
      </button>
    {/each}
    <button type="button" class="icon-button" aria-label="Edit labels" onclick={() => (open = true)}>
      <Ellipsis size={16} aria-hidden="true" />
    </button>
  </div>
{/if}
{#if open}<LabelsWindow bind:open />{/if}
