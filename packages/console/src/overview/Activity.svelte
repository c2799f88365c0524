<script lang="ts">
import type { ActivityOfHours } from './status.js';

/** How runs went in the last day, hour by hour. */
let { activity }: { activity: ActivityOfHours } = $props();
const times = $derived(activity.hours.map(({ from }) => Date.parse(from) / 1000));
const sum = (of: 'done' | 'failed' | 'other') => activity.hours.reduce((all, hour) => all + hour[of], 0);
const series = $derived([
  { label: `${sum('done')} done`, color: 'spruce', values: activity.hours.map((hour) => hour.done), bars: true },
  { label: `${sum('failed')} failed`, color: 'rowan', values: activity.hours.map((hour) => hour.failed), bars: true },
  {
    label: `${sum('other')} waiting, under way or cancelled`,
    color: 'ochre',
    values: activity.hours.map((hour) => hour.other),
    bars: true,
  },
]);
const label = $derived(`Runs of the last 24 hours: ${series.map((one) => one.label).join(', ')}`);
</script>

<section class="panel min-w-0" aria-labelledby="day">
  <h2 id="day" class="mb-2">The last day</h2>
  <div class="h-56">
    {#await import('../plots/Plot.svelte') then { default: Plot }}<Plot {label} {times} {series} />{/await}
  </div>
</section>
