<script lang="ts">
import type { ProblemState } from '@pindro/contract/light';
import When from './When.svelte';

let { state, until }: { state: ProblemState; until: string | null } = $props();
const COLORS: Record<ProblemState, string> = {
  open: 'text-ochre',
  returned: 'text-rowan font-semibold',
  mended: 'text-spruce',
  expected: 'text-soft',
};
const WORDS: Record<ProblemState, string> = {
  open: 'open',
  returned: 'came back',
  mended: 'mended',
  expected: 'expected',
};
</script>

<span class="whitespace-nowrap {COLORS[state]}">
  {WORDS[state]}{#if state === 'expected' && until}{' '}until <When at={until} />{/if}
</span>
