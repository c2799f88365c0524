<script lang="ts">
import type { StepCard } from '@pindro/contract';
import { brief } from '../state/format.js';

/** What a step does, in words, with the values that fill it set off. */
let { parts }: { parts: StepCard['sentence'] } = $props();

function show(value: unknown): string {
  if (typeof value === 'object' && value !== null && !Array.isArray(value)) {
    return Object.entries(value)
      .map(([name, inner]) => `${name}: ${typeof inner === 'string' ? bare(inner) : brief(inner, 40)}`)
      .join(', ');
  }
  return typeof value === 'string' ? bare(value) : brief(value, 80);
}
/** An expression that is the whole text reads better without its brackets. */
const bare = (text: string) => /^\s*\$\{([^{}]*)\}\s*$/.exec(text)?.[1]?.trim() ?? text;
</script>

{#each parts as part, index (index)}{#if typeof part === 'string'}{part}{:else}<span class="chip" title={brief(part.value, 400)}>{brief(show(part.value), 110)}</span>{/if}{/each}
