<script lang="ts">
import ChevronRight from '@lucide/svelte/icons/chevron-right';
import { humanDuration } from '@pindro/core/browser';
import { words } from '../state/format.js';
import type { CallLine } from './exchange.svelte.js';
import ToolCall from './ToolCall.svelte';

/** Parallel calls: several collapse into one line. */
let { calls }: { calls: CallLine[] } = $props();
let open = $state(false);
const failed = $derived(calls.filter((call) => call.state === 'failed').length);
const running = $derived(calls.some((call) => call.state === 'running'));
const longest = $derived(Math.max(...calls.map((call) => call.took ?? 0)));
const names = $derived([...new Set(calls.map((call) => words(call.tool)))].join(', '));
</script>

{#if calls.length === 1}
  <ToolCall call={calls[0]!} />
{:else}
  <div class="call" class:call-failed={failed > 0}>
    <div class="call-line">
      <button type="button" class="call-open" aria-expanded={open} onclick={() => (open = !open)}>
        <ChevronRight size={15} class="shrink-0 text-soft {open ? 'rotate-90' : ''}" aria-hidden="true" />
        <span class="font-medium whitespace-nowrap">{calls.length} parallel calls</span>
        <span class="truncate text-soft">{names}</span>
      </button>
      {#if failed > 0}<span class="shrink-0 text-rowan">{failed} failed</span>{/if}
      <span class="shrink-0 text-soft tabular-nums">{running ? 'running' : humanDuration(longest)}</span>
    </div>
    {#if open}
      <div class="space-y-1 border-t border-line p-2">
        {#each calls as call (call.id)}<ToolCall {call} />{/each}
      </div>
    {/if}
  </div>
{/if}
