<script lang="ts">
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Rows from '../parts/Rows.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

const flows = new Resource(() => api.listFlows(), ['flow', 'endpoint']);
</script>

<PageHead title="Flows" about="Each flow is a trail of steps. Run it by hand, talk to it, or expose it as a tool." />
<Loaded from={flows}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No flow yet">Write one as YAML and bring it in with <code class="chip">pindro flow import FILE</code>. It shows up here at once.</Empty>
    {:else}
      <Rows label="Flows" headings={['Flow', 'State', 'Steps', 'Exposed on', '']} {items}>
        {#snippet row(flow)}
          <td><a class="link" href="/flows/{flow.name}">{flow.title}</a><p class="max-w-xl text-sm text-soft">{flow.description}</p></td>
          <td>{#if flow.revision === null}<State state="changed" label="not published" />{:else}<State state="live" label="revision {flow.revision}" />{#if flow.changed} <State state="changed" label="draft differs" />{/if}{/if}</td>
          <td class="tabular-nums">{flow.steps}</td>
          <td>{#each flow.endpoints as endpoint (endpoint)}<a class="link" href="/endpoints/{endpoint}">{endpoint}</a>{:else}<span class="text-soft">nowhere</span>{/each}</td>
          <td>{#if flow.agent}<a class="link whitespace-nowrap" href="/flows/{flow.name}/chat">Talk to it</a>{/if}</td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
