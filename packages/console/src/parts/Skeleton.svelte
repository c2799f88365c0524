<script lang="ts">
/** Stands for what is loading, once that takes long enough to be noticed. */
let { lines = 4 }: { lines?: number } = $props();
</script>

<div class="skeleton" role="status">
  <span class="sr-only">Loading …</span>
  {#each { length: lines } as _, index (index)}
    <span class="skeleton-line" style="width: {90 - ((index * 37) % 45)}%"></span>
  {/each}
</div>
