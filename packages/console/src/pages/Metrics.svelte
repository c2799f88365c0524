<script lang="ts">
import type { FigureBy } from '@pindro/contract/light';
import { humanDuration } from '@pindro/core/browser';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import Rows from '../parts/list/Rows.svelte';
import Plot from '../plots/Plot.svelte';
import SavedValues from '../saved/SavedValues.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const BY: { by: FigureBy; label: string; counted: string; filter: string }[] = [
  { by: 'flow', label: 'Flow', counted: 'Runs', filter: 'flow' },
  { by: 'endpoint', label: 'Endpoint', counted: 'Calls', filter: 'endpoint' },
  { by: 'tool', label: 'Tool', counted: 'Calls', filter: 'tool' },
  { by: 'server', label: 'Tool server', counted: 'Calls', filter: 'server' },
  { by: 'model', label: 'Model', counted: 'Model requests', filter: 'model' },
  { by: 'caller', label: 'Caller', counted: 'Runs', filter: 'caller' },
];
const TIMES = [
  { hours: 24, label: 'last 24 hours' },
  { hours: 168, label: 'last 7 days' },
  { hours: 720, label: 'last 30 days' },
];
const chosen = $derived(BY.find(({ by }) => by === router.query.get('by')) ?? BY[0]!);
const time = $derived(TIMES.find(({ hours }) => String(hours) === router.query.get('hours')) ?? TIMES[0]!);
const query = $derived({ by: chosen.by, hours: time.hours });
const metrics = new Resource(() => api.metricSeries({ query }), ['run']);
const all = new Resource(() => api.metricSeries({ query: { by: 'all', hours: time.hours } }), ['run']);
const within = (value: number | null) => (value === null ? '–' : humanDuration(value));
const change = (values: { by?: string; hours?: string }) =>
  router.filter({ by: chosen.by, hours: String(time.hours), ...values });
const uid = $props.id();
</script>

<PageHead title="Metrics" about="Number of runs, failures, durations, tokens and cost." />
<form class="mb-4 flex flex-wrap items-end gap-3" aria-label="Metric" onsubmit={(event) => event.preventDefault()}>
  <div>
    <label class="label" for="{uid}-by">Group by</label>
    <select
      id="{uid}-by"
      class="field"
      value={chosen.by}
      onchange={(event) => change({ by: event.currentTarget.value })}
    >
      {#each BY as one (one.by)}<option value={one.by}>{one.label}</option>{/each}
    </select>
  </div>
  <div>
    <label class="label" for="{uid}-hours">Period</label>
    <select
      id="{uid}-hours"
      class="field"
      value={String(time.hours)}
      onchange={(event) => change({ hours: event.currentTarget.value })}
    >
      {#each TIMES as one (one.hours)}<option value={String(one.hours)}>{one.label}</option>{/each}
    </select>
  </div>
  <SavedValues
    resource="view"
    value={{ groupBy: chosen.by, hours: time.hours }}
    onChoose={(saved) => saved && change({ by: String(saved.groupBy), hours: String(saved.hours) })}
  />
</form>
{#if all.value?.items[0]}
  {@const total = all.value.items[0]}
  <section class="panel mb-6 min-w-0">
    <h2 class="mb-2">Runs</h2>
    <Plot
      label="{plural(total.runs, 'run')}, {total.failed} of them failed, over {time.label}"
      times={total.over.map(({ from }) => Date.parse(from) / 1000)}
      series={[
        { label: 'runs', color: 'spruce', values: total.over.map(({ runs }) => runs), bars: true },
        { label: 'failed', color: 'rowan', values: total.over.map(({ failed }) => failed), bars: true },
      ]}
    />
  </section>
{/if}
<Loaded from={metrics}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No data for the {time.label}">Finished runs and calls are counted here.</Empty>
    {:else}
      <Rows
        label="Metrics"
        headings={[chosen.label, chosen.counted, 'Failed', 'Median (p50)', 'p95', 'Tokens', 'Cost']}
        {items}
      >
        {#snippet row(one)}
          <td>
            <a class="link" href="/runs?{chosen.filter}={encodeURIComponent(one.name)}&all=yes">{one.name}</a>
          </td>
          <td class="tabular-nums">{one.runs}</td>
          <td class="tabular-nums {one.failed > 0 ? 'text-rowan' : 'text-soft'}">{one.failed}</td>
          <td class="tabular-nums">{within(one.p50)}</td>
          <td class="tabular-nums">{within(one.p95)}</td>
          <td class="tabular-nums">{one.tokens > 0 ? one.tokens.toLocaleString() : ''}</td>
          <td class="tabular-nums">{one.cost > 0 ? one.cost.toFixed(4) : ''}</td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
