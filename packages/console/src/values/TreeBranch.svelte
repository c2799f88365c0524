<script lang="ts">
import Copy from '@lucide/svelte/icons/copy';
import { brief, plural } from '../state/format.js';
import { notices } from '../state/notices.svelte.js';
import Value from './Value.svelte';

/** A deep part of a value, drawn when it is opened; its path can be copied. */
let { label, value, path }: { label: string; value: unknown; path: string } = $props();
let open = $state(false);
const size = $derived(Array.isArray(value) ? plural(value.length, 'item') : brief(value, 70));

async function copy() {
  await navigator.clipboard.writeText(path);
  notices.tell(`Copied ${path}`);
}
</script>

<div class="value-branch">
  <dt class="flex items-center gap-1">
    <button type="button" class="value-open" aria-expanded={open} onclick={() => (open = !open)}>
      <span class="text-soft" aria-hidden="true">{open ? '▾' : '▸'}</span>
      {label}
    </button>
    <button
      type="button"
      class="field-tool"
      aria-label="Copy the path {path}"
      title={path}
      onclick={() => void copy()}
    >
      <Copy size={13} aria-hidden="true" />
    </button>
  </dt>
  <dd class="min-w-0">
    {#if open}
      <div class="border-l-2 border-line pl-3"><Value {value} name={label} json={false} {path} /></div>
    {:else}
      <span class="truncate text-soft">{size}</span>
    {/if}
  </dd>
</div>
