<script lang="ts">
/** Lines of two texts: of both, of one only. */
let { lines, label }: { lines: { sign: ' ' | '+' | '-'; text: string }[]; label: string } = $props();
const LOOKS = { '+': 'bg-spruce-wash text-spruce', '-': 'bg-rowan-wash text-rowan', ' ': '' };
const shown = $derived(lines.slice(0, 2000));
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<pre
  class="max-h-[32rem] overflow-auto rounded-md bg-sunk p-3 font-mono text-[0.82rem]"
  tabindex="0"
  role="region"
  aria-label={label}>{#each shown as line, index (index)}<span class="block {LOOKS[line.sign]}"
      >{line.sign} {line.text}</span
    >{/each}</pre>
{#if lines.length > shown.length}<p class="hint">The first {shown.length} of {lines.length} lines.</p>{/if}
