<script lang="ts">
import { humanDuration } from '@pindro/core/browser';
import { plural } from '../state/format.js';
import Plot from './Plot.svelte';

interface Calls {
  calls: number;
  failed: number;
  p50: number | null;
  p95: number | null;
}
interface Props {
  total: Calls;
  /** Piece of time by piece of time. */
  over: (Calls & { from: string })[];
  /** In which time, for those who do not see the plots: `over the last day`. */
  during: string;
}
/** How many calls there were, how many failed, and how long they took. */
let { total, over, during }: Props = $props();
const ms = (value: number | null) => (value === null ? '–' : humanDuration(value));
const times = $derived(over.map(({ from }) => Date.parse(from) / 1000));
</script>

<div class="mb-6 grid gap-4 lg:grid-cols-2">
  <section class="panel min-w-0">
    <h2 class="mb-2">Calls</h2>
    <Plot
      label="{plural(total.calls, 'call')}, {total.failed} of them failed, {during}"
      {times}
      series={[
        { label: 'calls', color: 'spruce', values: over.map(({ calls }) => calls), bars: true },
        { label: 'failed', color: 'rowan', values: over.map(({ failed }) => failed), bars: true },
      ]}
    />
  </section>
  <section class="panel min-w-0">
    <h2 class="mb-2">Duration</h2>
    <Plot
      label="Median {ms(total.p50)}, p95 {ms(total.p95)}, {during}"
      {times}
      unit=" ms"
      series={[
        { label: 'median', color: 'glacier', values: over.map(({ p50 }) => p50) },
        { label: 'p95', color: 'ochre', values: over.map(({ p95 }) => p95) },
      ]}
    />
  </section>
</div>
