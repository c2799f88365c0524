<script lang="ts">
import type { Remark } from '@pindro/contract/light';
import State from '../parts/State.svelte';

/** What is wrong with a list of tools, and what can be applied. */
let { suggestions, busy, apply }: { suggestions: Remark[]; busy: boolean; apply: (id: string) => void } = $props();
</script>

<ul class="space-y-3" aria-label="Findings">
  {#each suggestions as remark (remark.id)}
    <li class="panel border-l-4 {remark.weight === 'hurts' ? 'border-l-rowan' : 'border-l-ochre'}">
      <div class="flex flex-wrap items-baseline justify-between gap-2">
        <h3 class="font-semibold">{remark.title}</h3>
        <State state={remark.weight === 'hurts' ? 'failed' : 'waiting'} label={remark.weight} />
      </div>
      <p class="mt-1 text-soft">{remark.why}</p>
      <p class="mt-1">{remark.instead}</p>
      {#if remark.fix !== null}<button
          type="button"
          class="button mt-3 px-2 py-1 text-sm"
          disabled={busy}
          onclick={() => apply(remark.id)}>Apply<span class="sr-only">: {remark.title}</span></button
        >{/if}
    </li>
  {/each}
</ul>
