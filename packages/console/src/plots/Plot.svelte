<script lang="ts">
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';

interface Props {
  /** What it shows, for those who do not see it. */
  label: string;
  /** Seconds since the epoch. */
  times: number[];
  series: { label: string; color: string; values: (number | null)[]; bars?: boolean }[];
  unit?: string;
}
let { label, times, series, unit = '' }: Props = $props();
let width = $state(0);
let dark = $state(matchMedia('(prefers-color-scheme: dark)').matches);

$effect(() => {
  const query = matchMedia('(prefers-color-scheme: dark)');
  const change = () => (dark = query.matches);
  query.addEventListener('change', change);
  return () => query.removeEventListener('change', change);
});

/** Redraws when the data, the size or the color scheme changes. */
function draw(node: HTMLElement) {
  $effect(() => {
    void dark;
    if (width < 50) return;
    const style = getComputedStyle(node);
    const color = (name: string) => style.getPropertyValue(`--${name}`).trim();
    const axis = {
      stroke: color('soft'),
      grid: { stroke: color('line'), width: 1 },
      ticks: { show: false },
      font: `12px ${style.fontFamily}`,
    };
    const bars = uPlot.paths.bars!({ size: [0.7, 40] });
    const plot = new uPlot(
      {
        width,
        height: 190,
        cursor: { y: false },
        legend: { live: false },
        scales: { y: { range: (_, __, max) => [0, Math.max(1, max * 1.1)] } },
        axes: [
          axis,
          {
            ...axis,
            size: 52,
            values: (_, ticks) => ticks.map((tick) => (Number.isInteger(tick) || unit ? `${tick}${unit}` : '')),
          },
        ],
        series: [
          {},
          ...series.map((one) => ({
            label: one.label,
            stroke: color(one.color),
            width: 2,
            points: { show: !one.bars, size: 5 },
            spanGaps: true,
            ...(one.bars && { paths: bars, fill: color(one.color), width: 0 }),
          })),
        ],
      },
      [times, ...series.map(({ values }) => values)] as uPlot.AlignedData,
      node,
    );
    return () => plot.destroy();
  });
}
</script>

<div role="img" aria-label={label} bind:clientWidth={width} class="plot"><div use:draw></div></div>

<style>
.plot :global(.uplot) {
  font-family: inherit;
}
.plot :global(.u-legend) {
  font-weight: 400;
  color: var(--soft);
}
.plot :global(.u-legend th) {
  font-weight: 500;
}
</style>
