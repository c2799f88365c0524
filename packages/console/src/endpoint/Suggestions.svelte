<script lang="ts">
import type { Suggestion } from '@pindro/contract/light';
import State from '../parts/text/State.svelte';

/** What is wrong with a list of tools, and what can be applied. */
let { suggestions, busy, apply }: { suggestions: Suggestion[]; busy: boolean; apply: (id: string) => void } =
  $props();
</script>

<ul class="space-y-3" aria-label="Findings">
  {#each suggestions as suggestion (suggestion.id)}
    <li class="panel border-l-4 {suggestion.weight === 'hurts' ? 'border-l-rowan' : 'border-l-ochre'}">
      <div class="flex flex-wrap items-baseline justify-between gap-2">
        <h3 class="font-semibold">{suggestion.title}</h3>
        <State state={suggestion.weight === 'hurts' ? 'failed' : 'waiting'} label={suggestion.weight} />
      </div>
      <p class="mt-1 text-soft">{suggestion.why}</p>
      <p class="mt-1">{suggestion.instead}</p>
      {#if suggestion.fix !== null}<button
          type="button"
          class="button mt-3 px-2 py-1 text-sm"
          disabled={busy}
          onclick={() => apply(suggestion.id)}>Apply<span class="sr-only">: {suggestion.title}</span></button
        >{/if}
    </li>
  {/each}
</ul>
