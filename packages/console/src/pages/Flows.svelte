<script lang="ts">
import FileJson from '@lucide/svelte/icons/file-json';
import Plus from '@lucide/svelte/icons/plus';
import Wrench from '@lucide/svelte/icons/wrench';
import QuickTool from '../editor/QuickTool.svelte';
import Empty from '../parts/Empty.svelte';
import FromApi from '../parts/FromApi.svelte';
import Loaded from '../parts/Loaded.svelte';
import NewFlow from '../parts/NewFlow.svelte';
import PageHead from '../parts/PageHead.svelte';
import Rows from '../parts/Rows.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

const flows = new Resource(() => api.listFlows(), ['flow', 'endpoint']);
let making = $state(false);
let quick = $state(false);
let fromApi = $state(false);
let label = $state('');
</script>

<PageHead title="Flows" about="Each flow is a trail of steps. Run it by hand, talk to it, or expose it as a tool.">
  {#snippet actions()}
    <button type="button" class="button" onclick={() => (fromApi = true)}
      ><FileJson size={16} aria-hidden="true" /> From OpenAPI</button
    >
    <button type="button" class="button" onclick={() => (quick = true)}
      ><Wrench size={16} aria-hidden="true" /> Quick tool</button
    >
    <button type="button" class="button button-main" onclick={() => (making = true)}
      ><Plus size={16} aria-hidden="true" /> New flow</button
    >
  {/snippet}
</PageHead>
<Loaded from={flows}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No flow yet"
        >Draw one with “New flow”, or write it as YAML and bring it in with <code class="chip"
          >pindro flow import FILE</code
        >.</Empty
      >
    {:else}
      {@const labels = [...new Set(items.flatMap((flow) => flow.labels))].sort()}
      {#if labels.length > 0}<div class="mb-3 flex flex-wrap gap-2" role="group" aria-label="Labels">
          {#each ['', ...labels] as one (one)}<button
              type="button"
              class="rounded-full border px-3 py-0.5 text-sm {label === one
                ? 'border-spruce bg-spruce-wash font-semibold text-spruce'
                : 'border-line text-soft'}"
              aria-pressed={label === one}
              onclick={() => (label = one)}>{one || 'all'}</button
            >{/each}
        </div>{/if}
      <Rows
        label="Flows"
        headings={['Flow', 'State', 'Steps', 'Exposed on', '']}
        items={items.filter((flow) => label === '' || flow.labels.includes(label))}
      >
        {#snippet row(flow)}
          <td
            ><a class="link" href="/flows/{flow.name}">{flow.title}</a>
            <p class="max-w-xl text-sm text-soft">{flow.description}</p></td
          >
          <td
            >{#if !flow.sound}<State state="failed" label="has mistakes" />
            {/if}{#if flow.revision === null}<State state="changed" label="not published" />{:else}<State
                state="live"
                label="revision {flow.revision}"
              />{#if flow.changed}
                <State state="changed" label="draft differs" />{/if}{/if}</td
          >
          <td class="tabular-nums">{flow.steps}</td>
          <td
            >{#each flow.endpoints as endpoint (endpoint)}<a class="link" href="/endpoints/{endpoint}">{endpoint}</a
              >{:else}<span class="text-soft">nowhere</span>{/each}</td
          >
          <td
            >{#if flow.agent}<a class="link whitespace-nowrap" href="/flows/{flow.name}/chat">Talk to it</a>{/if}</td
          >
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>

{#if making}<NewFlow bind:open={making} />{/if}
{#if quick}<QuickTool bind:open={quick} />{/if}
{#if fromApi}<FromApi bind:open={fromApi} />{/if}
