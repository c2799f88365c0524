<script lang="ts">
import Check from '@lucide/svelte/icons/check';
import Copy from '@lucide/svelte/icons/copy';

interface Props {
  text: string;
  label?: string;
  /** A secret in the text: copied as it is, shown only when asked for. */
  secret?: string | undefined;
}
let { text, label = 'text', secret }: Props = $props();
let copied = $state(false);
let shown = $state(false);
const seen = $derived(secret && !shown ? text.replaceAll(secret, '•'.repeat(16)) : text);

async function copy() {
  await navigator.clipboard.writeText(text);
  copied = true;
  setTimeout(() => (copied = false), 1500);
}
</script>

<div class="relative">
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <pre
    class="max-h-96 overflow-auto rounded-md bg-sunk p-3 pr-24 font-mono text-[0.82rem] leading-relaxed"
    tabindex="0"
    role="region"
    aria-label={label}>{seen}</pre>
  <div class="absolute top-2 right-2 flex gap-1">
    {#if secret}<button
        type="button"
        class="button px-2 py-1 text-sm"
        onclick={() => (shown = !shown)}
        aria-label="{shown ? 'Hide' : 'Show'} the key in {label}">{shown ? 'Hide' : 'Show'}</button
      >{/if}
    <button type="button" class="button px-2 py-1 text-sm" onclick={copy} aria-label="Copy {label}">
      {#if copied}<Check size={15} aria-hidden="true" /> Copied{:else}<Copy size={15} aria-hidden="true" /> Copy{/if}
    </button>
  </div>
</div>
