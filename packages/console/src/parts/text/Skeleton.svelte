<script lang="ts">
/** Placeholder for loading content, shown after a delay. */
let { lines = 4 }: { lines?: number } = $props();
</script>

<div class="skeleton" role="status">
  <span class="sr-only">Loading …</span>
  {#each { length: lines } as _, index (index)}
    <span class="skeleton-line" style="width: {90 - ((index * 37) % 45)}%"></span>
  {/each}
</div>
