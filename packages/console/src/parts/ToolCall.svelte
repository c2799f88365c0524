<script lang="ts">
import Wrench from '@lucide/svelte/icons/wrench';
import type { CallCard } from '../state/conversation.svelte.js';
import { words } from '../state/format.js';
import State from './State.svelte';
import Value from './Value.svelte';

let { call }: { call: CallCard } = $props();

const result = $derived.by(() => {
  try {
    const read: unknown = JSON.parse(call.result);
    const inner = read as { structuredContent?: unknown };
    return inner?.structuredContent ?? read;
  } catch {
    return call.result;
  }
});
</script>

<div class="rounded-lg border bg-card {call.state === 'failed' ? 'border-rowan/50' : 'border-line'}">
  <div class="flex flex-wrap items-center justify-between gap-2 px-4 py-2">
    <p class="flex items-center gap-2">
      <Wrench size={15} class="text-soft" aria-hidden="true" /><span class="font-semibold">{words(call.tool)}</span
      ><span class="text-sm text-soft">{call.from}</span>
    </p>
    <State state={call.state} />
  </div>
  <div class="grid gap-4 border-t border-line px-4 py-3 text-sm sm:grid-cols-2">
    <div class="min-w-0">
      <p class="mb-1 font-semibold text-soft">Called with</p>
      <Value value={call.arguments} name="arguments" />
    </div>
    <div class="min-w-0">
      <p class="mb-1 font-semibold text-soft">Result</p>
      {#if call.state === 'running'}<p class="busy">waiting …</p>{:else if call.state === 'failed'}<p
          class="text-rowan"
        >
          {call.result}
        </p>{:else}<Value value={result} name="result" />{/if}
      {#each call.made as thing (thing.label)}<p class="mt-2">
          Made: <a class="link" href={thing.to}>{thing.label}</a>
        </p>{/each}
      {#if call.run}<p class="mt-2"><a class="link" href="/runs/{call.run}">How it went</a></p>{/if}
    </div>
  </div>
</div>
