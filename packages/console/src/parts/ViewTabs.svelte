<script lang="ts">
import { router } from '../state/router.svelte.js';

/** Views of one page; the one that is open stands in the address. */
let { views, label }: { views: { value: string; label: string }[]; label: string } = $props();
const view = $derived(router.query.get('view') ?? '');
</script>

<nav class="mb-5" aria-label={label}>
  <ul class="flex flex-wrap gap-1">
    {#each views as one (one.value)}
      <li>
        <button
          type="button"
          class="view"
          aria-current={view === one.value ? 'page' : undefined}
          onclick={() => router.filter({ view: one.value })}>{one.label}</button
        >
      </li>
    {/each}
  </ul>
</nav>
