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
import Code from '../parts/text/Code.svelte';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import Problem from '../parts/text/Problem.svelte';
import ThingHead from '../parts/resource/ThingHead.svelte';
import ViewTabs from '../parts/list/ViewTabs.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name }: { name: string } = $props();

const endpoint = new Resource(() => api.getEndpoint({ name }), ['endpoint', 'key', 'client', 'flow', 'server']);
let adding = $state(false);
const turn = new Action((on: boolean) => api.updateEndpoint({ name, body: { on } }));
const VIEWS = [
  { value: '', label: 'Tools' },
  { value: 'review', label: 'Review' },
  { value: 'connect', label: 'Connect' },
  { value: 'keys', label: 'Keys' },
  { value: 'use', label: 'Usage' },
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

<Loaded from={endpoint} page={name}>
  {#snippet children(now)}
    <ThingHead
      sort="endpoint"
      name={now.name}
      title={now.title}
      about={now.description || now.instructions}
      back={{ to: '/endpoints', label: 'Endpoints' }}
    >
      {#snippet actions()}
        <button type="button" class="button" aria-pressed={!now.on} onclick={() => void turn.run(!now.on)}>
          {now.on ? 'Disable' : 'Enable'}
        </button>
        <button type="button" class="button button-main" onclick={() => (adding = true)}>
          <Plus size={16} aria-hidden="true" /> Add tools
        </button>
      {/snippet}
    </ThingHead>
    {#if !now.on}
      <p class="mb-4 rounded-md bg-ochre-wash px-4 py-2 text-ochre">
        Disabled since <When at={now.offSince} />. Its clients are notified, and nothing is lost.
      </p>
    {/if}
    {#if turn.problem}<div class="mb-4"><Problem problem={turn.problem} /></div>{/if}
    <div class="mb-4"><Code text={now.url} label="address" /></div>
    <ViewTabs views={VIEWS} label="Views of the endpoint" />
    {#if view === 'review'}<ReviewList endpoint={now} />
    {:else if view === 'connect'}<Connect endpoint={now} />
    {:else if view === 'keys'}<Keys endpoint={now} />
    {:else if view === 'use'}<Use endpoint={now} />
    {:else if view === 'about'}{#key now.name}<About endpoint={now} />{/key}
    {:else}
      <h2 class="sr-only">Tools</h2>
      {#if now.toolList.length === 0}
        <Empty title="No tools yet"
          >Use “Add tools” to choose flows and tools of servers. Nothing is exposed unless you choose it.</Empty
        >
      {:else}
        <p class="mb-3 text-soft">
          {plural(now.toolList.length, 'tool')}, about {now.tokens} tokens in the model's context.
        </p>
        <ul class="space-y-3">
          {#each keyed(now.toolList) as { tool, key } (key)}<ToolCard endpoint={now.name} {tool} />{/each}
        </ul>
      {/if}
    {/if}
    {#if adding}<AddTools endpoint={now} bind:open={adding} />{/if}
  {/snippet}
</Loaded>
