<script lang="ts">
import type { ProblemState } from '@pindro/contract/light';
import When from '../text/When.svelte';

let { state, until }: { state: ProblemState; until: string | null } = $props();
const COLORS: Record<ProblemState, string> = {
  open: 'text-ochre',
  recurring: 'text-rowan font-semibold',
  resolved: 'text-spruce',
  expected: 'text-soft',
};
const WORDS: Record<ProblemState, string> = {
  open: 'open',
  recurring: 'recurring',
  resolved: 'resolved',
  expected: 'expected',
};
</script>

<span class="whitespace-nowrap {COLORS[state]}">
  {WORDS[state]}{#if state === 'expected' && until}{' '}until <When at={until} />{/if}
</span>
