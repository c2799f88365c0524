<script lang="ts">
import type { Outcome } from '@pindro/contract/light';
import { brief, words } from '../../state/format.js';

/**
 * Announces the result of a run to screen readers in one sentence, wherever it was started. Errors announce themselves,
 * and a large result is not read out.
 */
let { outcome, waiting = [] }: { outcome: Outcome | null; waiting?: string[] } = $props();
const sentence = $derived.by(() => {
  if (waiting.length > 0) return `Paused before ${waiting.map(words).join(', ')}.`;
  if (!outcome || outcome.error) return '';
  if (outcome.waitsFor) return `The run is waiting: ${outcome.waitsFor.what}.`;
  return `The run is ${outcome.state}. Result: ${brief(outcome.result, 200)}`;
});
</script>

<p class="sr-only" role="status" aria-label="Result of the run">{sentence}</p>
