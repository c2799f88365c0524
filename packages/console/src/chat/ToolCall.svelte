<script lang="ts">
import ChevronRight from '@lucide/svelte/icons/chevron-right';
import CircleCheck from '@lucide/svelte/icons/circle-check';
import CircleX from '@lucide/svelte/icons/circle-x';
import LoaderCircle from '@lucide/svelte/icons/loader-circle';
import { humanDuration } from '@pindro/core/browser';
import MadeThings from '../parts/resource/MadeThings.svelte';
import { brief, words } from '../state/format.js';
import Value from '../values/Value.svelte';
import type { CallLine } from './exchange.svelte.js';

/** One tool call as one line: what it did, on what, how it went, how long, what it made. It opens. */
let { call }: { call: CallLine } = $props();
let open = $state(false);
const LOOKS = {
  running: { icon: LoaderCircle, look: 'text-ochre motion-safe:animate-spin' },
  done: { icon: CircleCheck, look: 'text-spruce' },
  failed: { icon: CircleX, look: 'text-rowan' },
};
const Look = $derived(LOOKS[call.state]);
/** On what: the values it was called with, in a few words. */
const on = $derived(
  typeof call.arguments === 'object' && call.arguments !== null
    ? brief(
        Object.values(call.arguments)
          .map((value) => (typeof value === 'object' ? JSON.stringify(value) : String(value)))
          .join(', '),
        60,
      )
    : '',
);
const result = $derived.by(() => {
  try {
    const read: unknown = JSON.parse(call.result);
    return (read as { structuredContent?: unknown })?.structuredContent ?? read;
  } catch {
    return call.result;
  }
});
</script>

<div class="call" class:call-failed={call.state === 'failed'}>
  <div class="call-line">
    <button type="button" class="call-open" aria-expanded={open} onclick={() => (open = !open)}>
      <ChevronRight size={15} class="shrink-0 text-soft {open ? 'rotate-90' : ''}" aria-hidden="true" />
      <Look.icon size={16} class="shrink-0 {Look.look}" aria-hidden="true" />
      <span class="font-medium whitespace-nowrap">{words(call.tool)}</span>
      <span class="truncate text-soft">{on}</span>
      <span class="sr-only">, {call.state}</span>
    </button>
    {#if call.state === 'failed'}<span class="truncate text-rowan">{brief(call.result, 80)}</span>{/if}
    {#if call.made.length > 0}<span class="shrink-0"><MadeThings things={call.made} /></span>{/if}
    {#if call.took !== null}<span class="shrink-0 text-soft tabular-nums">{humanDuration(call.took)}</span>{/if}
  </div>
  {#if open}
    <div class="call-inside">
      <div class="min-w-0">
        <p class="mb-1 font-semibold text-soft">Called with {call.from}</p>
        <Value value={call.arguments} name="arguments" />
      </div>
      <div class="min-w-0">
        <p class="mb-1 font-semibold text-soft">Result</p>
        {#if call.state === 'running'}
          <p class="busy">waiting …</p>
        {:else if call.state === 'failed'}
          <p class="text-rowan">{call.result}</p>
        {:else}
          <Value value={result} name="result" />
        {/if}
        {#if call.run}<p class="mt-2"><a class="link" href="/runs/{call.run}">Details</a></p>{/if}
      </div>
    </div>
  {/if}
</div>
