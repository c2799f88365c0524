<script lang="ts">
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import RunRows from '../parts/list/RunRows.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import Activity from '../overview/Activity.svelte';
import FirstSteps from '../overview/FirstSteps.svelte';
import Outside from '../overview/Connections.svelte';
import SpanStates from '../overview/Totals.svelte';
import NeedsAttention from '../overview/NeedsAttention.svelte';

const status = new Resource(
  () => api.status(),
  ['flow', 'endpoint', 'server', 'model', 'run', 'approval', 'problem'],
);
const activity = new Resource(() => api.activity({ query: { hours: 24 } }), ['run']);
const recent = new Resource(() => api.listRuns({ query: { roots: 'true', limit: 6 } }), ['run']);
</script>

<PageHead title="Overview" about="Recent runs, pending approvals and problems." />
<Loaded from={status}>
  {#snippet children(now)}
    <FirstSteps status={now} />
    <SpanStates status={now} />
    {#if activity.value}
      <div class="mb-6 grid gap-4 lg:grid-cols-[minmax(0,1fr)_24rem]">
        <Activity activity={activity.value} />
        <NeedsAttention status={now} failing={activity.value.failing} />
      </div>
    {/if}
    <Outside status={now} />
  {/snippet}
</Loaded>
{#if (recent.value?.items.length ?? 0) > 0}
  <section aria-labelledby="latest">
    <h2 id="latest" class="mb-2">Latest runs</h2>
    <RunRows runs={recent.value!.items} keys={false} />
  </section>
{/if}
