<script lang="ts">
import type { RunDetail } from '@pindro/contract/light';
import Made from '../parts/resource/Made.svelte';
import Value from '../values/Value.svelte';

interface Props {
  run: RunDetail;
  whole: (of: 'input' | 'result' | 'step', path?: string) => () => Promise<unknown>;
}
/** What the run received and returned; shown while no other span is selected. */
let { run, whole }: Props = $props();
const NONE: Partial<Record<RunDetail['state'], string>> = {
  running: 'Running.',
  waiting: 'None yet: the run is waiting.',
};
</script>

<section class="min-w-0" aria-label="Input">
  <h2 class="mb-1">Input</h2>
  <Value value={run.input} name="input" whole={whole('input')} />
</section>
<section class="mt-4 min-w-0" aria-label="Output">
  <h2 class="mb-1">Output</h2>
  {#if run.state === 'done'}<Value value={run.result} name="result" whole={whole('result')} />
  {:else}<p class="text-soft">{NONE[run.state] ?? 'None: the run did not finish.'}</p>{/if}
  <Made spans={run.spans} />
</section>
