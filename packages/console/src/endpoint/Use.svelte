<script lang="ts">
import When from '../parts/text/When.svelte';
import type { EndpointDetail } from '@pindro/contract/light';
import { humanDuration } from '@pindro/core/browser';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import Problem from '../parts/text/Problem.svelte';
import Rows from '../parts/list/Rows.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';
import CallPlots from '../plots/CallPlots.svelte';

/** Who used what, and how it went; and who is connected now. */
let { endpoint }: { endpoint: EndpointDetail } = $props();

const uid = $props.id();
let days = $state('7');
const usage = new Resource(
  () => api.endpointUsage({ name: endpoint.name, query: { days: Number(days) } }),
  ['client'],
);
const sessions = new Resource(() => api.endpointSessions({ name: endpoint.name }), ['client', 'key']);
const end = new Action(async (id: string) => {
  await api.endSession({ id });
  await sessions.refresh();
});
const ms = (value: number | null) => (value === null ? '–' : humanDuration(value));
const TRANSPORTS = { http: 'Streamable HTTP', sse: 'older SSE', stateless: 'without a session' };
</script>

<div class="mb-4 flex items-center gap-2">
  <label for="{uid}-days">Of the last</label><select id="{uid}-days" class="field w-auto" bind:value={days}
    ><option value="1">day</option><option value="7">7 days</option><option value="30">30 days</option><option
      value="90">90 days</option
    ></select
  >
</div>
<Loaded from={usage}>
  {#snippet children({ tools, over, total })}
    {#if total.calls === 0}
      <Empty title="No calls in this period">Connect a client to see its calls here.</Empty>
    {:else}
      <CallPlots {total} {over} during="over the last {days} days" />
      <Rows
        label="Usage by tool"
        headings={['Tool', 'Calls', 'Failed', 'Median (p50)', 'p95', 'Callers', 'Rejected arguments']}
        items={tools}
      >
        {#snippet row(one)}
          <td class="font-mono">{one.tool}</td>
          <td class="tabular-nums">{one.calls}</td>
          <td class="tabular-nums {one.failed > 0 ? 'text-rowan' : ''}">{one.failed}</td>
          <td class="whitespace-nowrap tabular-nums">{ms(one.p50)}</td>
          <td class="whitespace-nowrap tabular-nums">{ms(one.p95)}</td>
          <td>{one.callers.map(({ caller, calls }) => `${caller} ${calls}`).join(', ')}</td>
          <td
            >{one.refused.map(({ argument, times }) => `${argument}, ${plural(times, 'time')}`).join('; ') ||
              '–'}</td
          >
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
<section class="mt-8">
  <h2 class="mb-2">Connected clients</h2>
  {#if end.problem}<div class="mb-3"><Problem problem={end.problem} /></div>{/if}
  {#if (sessions.value?.items.length ?? 0) === 0}<p class="text-soft">No client has an open session.</p>
  {:else}
    <Rows
      label="Sessions"
      headings={['Client', 'Key', 'Caller', 'Transport', 'Since', 'Calls', '']}
      items={sessions.value!.items}
    >
      {#snippet row(one)}
        <td>{one.client} {one.version}</td>
        <td>{one.key}</td>
        <td>{one.caller}{one.stage === 'draft' ? ', uses drafts' : ''}</td>
        <td>{TRANSPORTS[one.transport]}{one.listening ? '' : ', no notifications'}</td>
        <td class="whitespace-nowrap text-soft"><When at={one.since} /></td>
        <td class="tabular-nums">{one.calls}</td>
        <td
          ><button
            type="button"
            class="button px-2 py-1 text-sm"
            aria-label="End the session of {one.client}"
            onclick={() => void end.run(one.id)}>End</button
          ></td
        >
      {/snippet}
    </Rows>
  {/if}
</section>
