<script lang="ts">
import type { ActivityOfHours } from './status.js';

/** How runs went in the last day, hour by hour. */
let { activity }: { activity: ActivityOfHours } = $props();
const times = $derived(activity.hours.map(({ from }) => Date.parse(from) / 1000));
const sum = (of: 'done' | 'failed' | 'other') => activity.hours.reduce((all, hour) => all + hour[of], 0);
/** Bars stand on one another: the whole first, with the parts drawn over it from below. */
const stacked = (...of: ('done' | 'failed' | 'other')[]) =>
  activity.hours.map((hour) => of.reduce((all, one) => all + hour[one], 0));
const series = $derived([
  { label: `${sum('done')} done`, color: 'spruce', values: stacked('done', 'failed', 'other'), bars: true },
  { label: `${sum('failed')} failed`, color: 'rowan', values: stacked('failed', 'other'), bars: true },
  {
    label: `${sum('other')} waiting, running or cancelled`,
    color: 'ochre',
    values: stacked('other'),
    bars: true,
  },
]);
const label = $derived(`Runs of the last 24 hours: ${series.map((one) => one.label).join(', ')}`);
</script>

<section class="panel min-w-0" aria-labelledby="day">
  <h2 id="day" class="mb-2">Last 24 hours</h2>
  <div class="h-56">
    {#if activity.hours.every(({ done, failed, other }) => done + failed + other === 0)}
      <p class="text-soft">No runs yet. Runs appear here hour by hour, with their outcome.</p>
    {:else}
      {#await import('../plots/Plot.svelte') then { default: Plot }}<Plot {label} {times} {series} />{/await}
    {/if}
  </div>
</section>
