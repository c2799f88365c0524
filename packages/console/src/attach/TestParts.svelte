<script lang="ts">
import { PART_WORDS, type TestPart } from '@pindro/contract/light';
import Check from '@lucide/svelte/icons/check';
import LoaderCircle from '@lucide/svelte/icons/loader-circle';
import X from '@lucide/svelte/icons/x';

/** How the test of a server goes, part by part as it happens. */
let { parts }: { parts: TestPart[] } = $props();
const LOOKS = { begun: 'text-soft', done: 'text-spruce', failed: 'text-rowan' };
const STATES = { begun: 'running', done: 'done', failed: 'failed' };
</script>

<ol class="mb-3 space-y-1 text-sm" aria-label="Test">
  {#each parts as { part, state, says, took } (part)}
    {@const Icon = state === 'begun' ? LoaderCircle : state === 'done' ? Check : X}
    <li class="flex items-start gap-2">
      <Icon
        size={15}
        class="mt-0.5 shrink-0 {LOOKS[state]} {state === 'begun' ? 'animate-spin' : ''}"
        aria-hidden="true"
      />
      <span class="w-24 shrink-0 font-medium">{PART_WORDS[part]}</span>
      <span class="sr-only">{STATES[state]}</span>
      <span class="min-w-0 grow wrap-anywhere">{state === 'failed' ? 'failed' : says}</span>
      {#if took}<span class="shrink-0 text-soft tabular-nums">{took} ms</span>{/if}
    </li>
  {/each}
</ol>
