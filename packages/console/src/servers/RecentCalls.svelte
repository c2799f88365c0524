<script lang="ts">
import type { ServerDetail } from '@pindro/contract/light';
import { humanDuration } from '@pindro/core/browser';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import Rows from '../parts/list/Rows.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import CallPlots from '../plots/CallPlots.svelte';

/** Statistics of recent calls: count, duration, failures. */
let { server }: { server: ServerDetail } = $props();
const uid = $props.id();
let hours = $state('24');
const WORDS: Record<string, string> = { '1': 'hour', '24': 'day', '168': '7 days', '336': '14 days' };
const lately = new Resource(
  () => api.serverActivity({ name: server.name, query: { hours: Number(hours) } }),
  ['server'],
);
const ms = (value: number | null) => (value === null ? '–' : humanDuration(value));
</script>

<div class="mb-4 flex items-center gap-2">
  <label for="{uid}-hours">Of the last</label><select id="{uid}-hours" class="field w-auto" bind:value={hours}
    >{#each Object.entries(WORDS) as [value, words] (value)}<option {value}>{words}</option>{/each}</select
  >
</div>
<Loaded from={lately}>
  {#snippet children({ total, over, tools, failures })}
    {#if total.calls === 0}
      <Empty title="No calls in this period">Calls by agents, flows and clients appear here.</Empty>
    {:else}
      <CallPlots {total} {over} during="over the last {WORDS[hours]}" />
      <Rows
        label="Usage by tool"
        headings={['Tool', 'Calls', 'Failed', 'Median (p50)', 'p95']}
        items={tools}
        keys={false}
      >
        {#snippet row(one)}
          <td class="font-mono">{one.tool}</td>
          <td class="tabular-nums">{one.calls}</td>
          <td class="tabular-nums {one.failed > 0 ? 'text-rowan' : ''}">{one.failed}</td>
          <td class="whitespace-nowrap tabular-nums">{ms(one.p50)}</td>
          <td class="whitespace-nowrap tabular-nums">{ms(one.p95)}</td>
        {/snippet}
      </Rows>
      {#if failures.length > 0}
        <h2 class="mt-6 mb-2">Recent failures</h2>
        <Rows
          label="Recent failures"
          headings={['Time', 'Tool', 'Error', 'Duration', 'Run']}
          items={failures}
          keys={false}
        >
          {#snippet row(one)}
            <td class="whitespace-nowrap text-soft"><When at={one.at} /></td>
            <td class="font-mono">{one.tool}</td>
            <td>{one.code.replaceAll('_', ' ')}</td>
            <td class="whitespace-nowrap tabular-nums">{ms(one.took)}</td>
            <td
              >{#if one.run}<a class="link" href="/runs/{one.run}">view</a>{:else}manually{/if}</td
            >
          {/snippet}
        </Rows>
      {/if}
    {/if}
  {/snippet}
</Loaded>
