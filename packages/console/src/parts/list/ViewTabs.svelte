<script lang="ts">
import { router } from '../../state/router.svelte.js';

/** Views of a page; the open one is part of the address. */
let {
  views,
  label,
  slim = false,
}: { views: { value: string; label: string }[]; label: string; slim?: boolean } = $props();
const view = $derived(router.query.get('view') ?? '');
</script>

<nav class={slim ? '' : 'mb-5'} aria-label={label}>
  <ul class="flex {slim ? '' : 'flex-wrap gap-1'}">
    {#each views as one (one.value)}
      <li>
        <button
          type="button"
          class="view {slim ? 'view-slim' : ''}"
          aria-current={view === one.value ? 'page' : undefined}
          onclick={() => router.filter({ view: one.value })}>{one.label}</button
        >
      </li>
    {/each}
  </ul>
</nav>
