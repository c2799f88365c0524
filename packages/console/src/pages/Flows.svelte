<script lang="ts">
import FileJson from '@lucide/svelte/icons/file-json';
import Wrench from '@lucide/svelte/icons/wrench';
import FromApi from '../parts/resource/FromApi.svelte';
import Labels from '../parts/list/Labels.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import ResourceList from '../parts/list/ResourceList.svelte';
import NewFlow from '../parts/resource/NewFlow.svelte';
import State from '../parts/text/State.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const flows = new Resource(() => api.listFlows(), ['flow', 'endpoint']);
// A link with `?new` opens the form for a new one.
let making = $state(router.query.has('new'));
let quick = $state(false);
let fromApi = $state(false);
const label = $derived(router.query.get('label') ?? '');
</script>

<ResourceList
  type="flow"
  title="Flows"
  about="Each flow is a graph of steps. Run it, chat with it, or expose it as a tool."
  from={flows}
  headings={['Flow', 'State', 'Steps', 'Exposed on', 'Changed']}
  words={(one) => [one.name, one.title, one.description]}
  shown={(one) => label === '' || one.labels.includes(label)}
  make="New flow"
  onMake={() => (making = true)}
>
  {#snippet more()}
    <button type="button" class="button" onclick={() => (fromApi = true)}>
      <FileJson size={16} aria-hidden="true" /> From OpenAPI
    </button>
    <button type="button" class="button" onclick={() => (quick = true)}>
      <Wrench size={16} aria-hidden="true" /> Quick tool
    </button>
  {/snippet}
  {#snippet empty()}
    Draw one with “New flow”, or import a workspace on the page <a class="link" href="/workspace">Workspace</a>.
  {/snippet}
  {#snippet above(items)}
    <Labels labels={[...new Set(items.flatMap((flow) => flow.labels))].sort()} {label} />
  {/snippet}
  {#snippet cells(flow)}
    <td>
      <NameCell sort="flow" name={flow.name} title={flow.title} />
      <p class="max-w-xl text-sm text-soft">{flow.description}</p>
    </td>
    <td>
      <span class="flex flex-wrap gap-1">
        {#if !flow.sound}<State state="failed" label="has mistakes" />{/if}
        {#if flow.revision === null}
          <State state="changed" label="not published" />
        {:else}
          <State state="live" label="revision {flow.revision}" />
          {#if flow.changed}<State state="changed" label="draft differs" />{/if}
        {/if}
      </span>
    </td>
    <td class="tabular-nums">{flow.steps}</td>
    <td>
      {#each flow.endpoints as endpoint (endpoint)}
        <a class="link" href="/endpoints/{endpoint}">{endpoint}</a>{' '}
      {:else}
        <span class="text-soft">none</span>
      {/each}
    </td>
    <td class="whitespace-nowrap text-soft"><When at={flow.updatedAt} /></td>
  {/snippet}
  {#snippet tools(flow)}
    {#if flow.agent}<a class="link whitespace-nowrap" href="/flows/{flow.name}/chat">Chat</a>{/if}
  {/snippet}
</ResourceList>
{#if making}<NewFlow bind:open={making} />{/if}
{#if quick}
  {#await import('../editor/tools/QuickTool.svelte') then { default: QuickTool }}<QuickTool
      bind:open={quick}
    />{/await}
{/if}
{#if fromApi}<FromApi bind:open={fromApi} />{/if}
