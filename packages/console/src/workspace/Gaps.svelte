<script lang="ts">
/** What an import needs that only a person can supply, with the command for each. */
let { gaps }: { gaps: { what: string; command: string }[] } = $props();
</script>

{#if gaps.length > 0}
  <div class="rounded-lg bg-ochre-wash p-4">
    <p class="font-semibold text-ochre">Required from you</p>
    <ul class="mt-1 list-disc pl-5">
      {#each gaps as gap, index (index)}<li>{gap.what} <code class="chip">{gap.command}</code></li>{/each}
    </ul>
  </div>
{/if}
