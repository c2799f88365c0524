<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import type { ExposedTool } from '@pindro/contract/light';
import About from '../endpoint/About.svelte';
import AddTools from '../endpoint/AddTools.svelte';
import Connect from '../endpoint/Connect.svelte';
import Keys from '../endpoint/Keys.svelte';
import ReviewList from '../endpoint/ReviewList.svelte';
import ToolCard from '../endpoint/ToolCard.svelte';
import Use from '../endpoint/Use.svelte';
import Code from '../parts/Code.svelte';
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name }: { name: string } = $props();

const endpoint = new Resource(() => api.getEndpoint({ name }), ['endpoint', 'key', 'client', 'flow', 'server']);
let adding = $state(false);
const VIEWS = [
  { value: '', label: 'Tools' },
  { value: 'review', label: 'What the model reads' },
  { value: 'connect', label: 'Connect' },
  { value: 'keys', label: 'Keys' },
  { value: 'use', label: 'Use' },
  { value: 'about', label: 'About' },
];
/** Names a tool by what it is, so that its card stays open when it is renamed. */
const keyed = (tools: ExposedTool[]) =>
  tools.map((tool, index) => ({
    tool,
    key: `${tool.target} ${tools.slice(0, index).filter(({ target }) => target === tool.target).length}`,
  }));
const view = $derived(router.query.get('view') ?? '');
</script>

<Loaded from={endpoint}>
  {#snippet children(now)}
    <PageHead
      title={now.title}
      about={now.description || now.instructions}
      back={{ to: '/endpoints', label: 'Endpoints' }}
    >
      {#snippet actions()}<button type="button" class="button button-main" onclick={() => (adding = true)}
          ><Plus size={16} aria-hidden="true" /> Add tools</button
        >{/snippet}
    </PageHead>
    <div class="mb-4"><Code text={now.url} label="address" /></div>
    <nav class="mb-5" aria-label="Views of the endpoint">
      <ul class="flex flex-wrap gap-1">
        {#each VIEWS as one (one.value)}<li>
            <button
              type="button"
              class="rounded-md px-3 py-1.5 {view === one.value
                ? 'bg-spruce-wash font-semibold text-spruce'
                : 'text-soft hover:bg-sunk'}"
              aria-current={view === one.value ? 'page' : undefined}
              onclick={() => router.filter({ view: one.value })}>{one.label}</button
            >
          </li>{/each}
      </ul>
    </nav>
    {#if view === 'review'}<ReviewList endpoint={now} />
    {:else if view === 'connect'}<Connect endpoint={now} />
    {:else if view === 'keys'}<Keys endpoint={now} />
    {:else if view === 'use'}<Use endpoint={now} />
    {:else if view === 'about'}{#key now.name}<About endpoint={now} />{/key}
    {:else}
      <h2 class="sr-only">Tools</h2>
      {#if now.toolList.length === 0}
        <Empty title="No tool on it yet"
          >Press Add tools to choose flows and tools of servers. Nothing is exposed unless you choose it.</Empty
        >
      {:else}
        <p class="mb-3 text-soft">
          {plural(now.toolList.length, 'tool')}, about {now.tokens} tokens for a model to read.
        </p>
        <ul class="space-y-3">
          {#each keyed(now.toolList) as { tool, key } (key)}<ToolCard endpoint={now.name} {tool} />{/each}
        </ul>
      {/if}
    {/if}
    {#if adding}<AddTools endpoint={now} bind:open={adding} />{/if}
  {/snippet}
</Loaded>
