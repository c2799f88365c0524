<script lang="ts">
import Check from '@lucide/svelte/icons/check';
import Copy from '@lucide/svelte/icons/copy';

let { text, label = 'text' }: { text: string; label?: string } = $props();
let copied = $state(false);

async function copy() {
  await navigator.clipboard.writeText(text);
  copied = true;
  setTimeout(() => (copied = false), 1500);
}
</script>

<div class="relative">
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <pre class="max-h-96 overflow-auto rounded-md bg-sunk p-3 pr-24 font-mono text-[0.82rem] leading-relaxed" tabindex="0" role="region" aria-label={label}>{text}</pre>
  <button type="button" class="button absolute top-2 right-2 px-2 py-1 text-sm" onclick={copy} aria-label="Copy {label}">
    {#if copied}<Check size={15} aria-hidden="true" /> Copied{:else}<Copy size={15} aria-hidden="true" /> Copy{/if}
  </button>
</div>
