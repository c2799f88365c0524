<script lang="ts">
import MessageSquare from '@lucide/svelte/icons/message-square';
import Radio from '@lucide/svelte/icons/radio';
import Upload from '@lucide/svelte/icons/upload';
import Build from '../editor/Build.svelte';
import PublishWindow from '../editor/PublishWindow.svelte';
import Revisions from '../editor/Revisions.svelte';
import WaysIn from '../editor/WaysIn.svelte';
import Code from '../parts/Code.svelte';
import ExposeWindow from '../parts/ExposeWindow.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name }: { name: string } = $props();

const flow = new Resource(() => api.getFlow({ name }), ['flow', 'endpoint']);
const kinds = new Resource(() => api.listKinds());
let exposing = $state(false);
let publishing = $state(false);
const VIEWS = [
  { value: '', label: 'Build' },
  { value: 'ways', label: 'Ways in' },
  { value: 'revisions', label: 'Revisions' },
  { value: 'document', label: 'Document' },
];
const view = $derived(router.query.get('view') ?? '');
const show = (value: string) => router.filter({ view: value });
</script>

<Loaded from={flow}>
  {#snippet children(now)}
    <PageHead title={now.title} back={{ to: '/flows', label: 'Flows' }}>
      {#snippet actions()}
        {#if now.agent}<a class="button" href="/flows/{name}/chat"><MessageSquare size={16} aria-hidden="true" /> Talk to it</a>{/if}
        <button type="button" class="button" onclick={() => (publishing = true)}><Upload size={16} aria-hidden="true" /> Publish</button>
        <button type="button" class="button button-main" onclick={() => (exposing = true)}><Radio size={16} aria-hidden="true" /> Expose</button>
      {/snippet}
    </PageHead>
    <div class="mb-4 flex flex-wrap items-center gap-x-6 gap-y-2">
      <nav aria-label="Views of the flow"><ul class="flex gap-1">{#each VIEWS as one (one.value)}<li><button type="button" class="rounded-md px-3 py-1.5 {view === one.value ? 'bg-spruce-wash font-semibold text-spruce' : 'text-soft hover:bg-sunk'}" aria-current={view === one.value ? 'page' : undefined} onclick={() => show(one.value)}>{one.label}</button></li>{/each}</ul></nav>
      <p class="flex flex-wrap items-center gap-2">
        {#if now.revision === null}<State state="changed" label="not published" />{:else}<State state="live" label="revision {now.revision} is live" />{#if now.changed}<State state="changed" label="the draft differs" />{/if}{/if}
        {#each now.endpoints as endpoint (endpoint)}<a class="link" href="/endpoints/{endpoint}">on endpoint {endpoint}</a>{/each}
      </p>
    </div>
    {#if view === 'ways'}<WaysIn flow={now} />
    {:else if view === 'revisions'}<Revisions flow={now} />
    {:else if view === 'document'}<Code text={now.text} label="flow document" />
    {:else if kinds.value}<Build flow={now} kinds={kinds.value.items} />{/if}
    {#if exposing}<ExposeWindow flow={now} bind:open={exposing} />{/if}
    {#if publishing}<PublishWindow flow={now} bind:open={publishing} onCompare={() => show('revisions')} />{/if}
  {/snippet}
</Loaded>
