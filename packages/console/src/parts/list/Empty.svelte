<script lang="ts">
import type { Snippet } from 'svelte';

let { title, children }: { title: string; children: Snippet } = $props();
</script>

<div class="rounded-lg border border-dashed border-soft/50 px-6 py-10 text-center">
  <p class="font-semibold">{title}</p>
  <div class="mx-auto mt-1 max-w-lg text-soft">{@render children()}</div>
</div>
