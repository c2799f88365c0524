<script lang="ts">
import type { StepCard } from '@pindro/contract/light';
import { brief } from '../../state/format.js';

/** Describes a step, with its values highlighted. */
let { parts }: { parts: StepCard['sentence'] } = $props();

const WORDS: Record<string, string> = {
  gt: 'over',
  gte: 'at least',
  lt: 'under',
  lte: 'at most',
  not: 'not',
  in: 'one of',
  contains: 'contains',
};

/** Describes a condition: `at least 3`. */
function inner(value: unknown): string {
  const [[word, operand] = ['', undefined], ...more] =
    typeof value === 'object' && value !== null ? Object.entries(value) : [];
  if (more.length === 0 && word in WORDS)
    return `${WORDS[word]} ${typeof operand === 'string' ? bare(operand) : brief(operand, 40)}`;
  return typeof value === 'string' ? bare(value) : brief(value, 40);
}

function show(value: unknown): string {
  if (typeof value === 'object' && value !== null && !Array.isArray(value)) {
    return Object.entries(value)
      .map(([name, one]) => `${name}: ${inner(one)}`)
      .join(', ');
  }
  return typeof value === 'string' ? bare(value) : brief(value, 80);
}
/** An expression that is the whole text reads better without its brackets. */
const bare = (text: string) => /^\s*\$\{([^{}]*)\}\s*$/.exec(text)?.[1]?.trim() ?? text;
</script>

{#each parts as part, index (index)}{#if typeof part === 'string'}{part}{:else}<span
      class="chip"
      title={brief(part.value, 400)}>{brief(show(part.value), 110)}</span
    >{/if}{/each}
