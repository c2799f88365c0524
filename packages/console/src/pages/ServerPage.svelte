<script lang="ts">
import { SPEAKS_WORDS } from '@pindro/contract/light';
import Pencil from '@lucide/svelte/icons/pencil';
import RefreshCw from '@lucide/svelte/icons/refresh-cw';
import Loaded from '../parts/Loaded.svelte';
import Problem from '../parts/Problem.svelte';
import State from '../parts/State.svelte';
import ThingHead from '../parts/ThingHead.svelte';
import When from '../parts/When.svelte';
import ServerSettings from '../servers/ServerSettings.svelte';
import ServerTool from '../servers/ServerTool.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name }: { name: string } = $props();

const server = new Resource(() => api.getServer({ name }), ['server', 'flow', 'endpoint']);
const refresh = new Action(() => api.refreshServer({ name }));
let editing = $state(false);
let find = $state('');
const wanted = $derived(router.query.get('tool'));
const named = (names: string[], what: string) => (names.length > 0 ? `, ${what}: ${names.join(', ')}` : '');
</script>

<Loaded from={server} page={name}>
  {#snippet children(now)}
    <ThingHead
      sort="server"
      name={now.name}
      title={now.name}
      about={now.about}
      back={{ to: '/servers', label: 'Tool servers' }}
    >
      {#snippet actions()}
        <button type="button" class="button" onclick={() => (editing = true)}>
          <Pencil size={16} aria-hidden="true" /> Change
        </button>
        <button type="button" class="button" disabled={refresh.busy} onclick={() => void refresh.run()}>
          <RefreshCw size={16} aria-hidden="true" />
          {refresh.busy ? 'Asking …' : 'Read its tools again'}
        </button>
      {/snippet}
    </ThingHead>
    <div class="mb-6 space-y-3">
      <p class="flex flex-wrap items-center gap-3">
        <State state={now.state} /> <span class="font-mono text-sm wrap-anywhere">{now.url}</span>
        <span class="text-sm text-soft">{SPEAKS_WORDS[now.speaks]}</span>
        <span class="text-soft">last seen <When at={now.seenAt} /></span>
      </p>
      {#if now.credential}
        <p>Credential: <a class="link" href="/credentials?open={now.credential}">{now.credential}</a></p>
      {/if}
      <p class="text-soft">Used by {now.usedBy.join(', ') || 'nothing yet'}.</p>
      {#if now.trouble}
        <Problem problem={{ type: '', status: 0, code: '', title: now.trouble, hint: now.fix ?? '' }} />
      {/if}
      {#if refresh.problem && !now.trouble}<Problem problem={refresh.problem} />{/if}
      {#if refresh.result}
        {@const { tools, added, removed } = refresh.result}
        <p role="status">It answered with {plural(tools, 'tool')}{named(added, 'new')}{named(removed, 'gone')}.</p>
      {/if}
    </div>
    <div class="mb-2 flex flex-wrap items-center gap-3">
      <h2>{plural(now.toolList.length, 'tool')}</h2>
      {#if now.toolList.length > 8}
        <input
          class="field max-w-64 py-1"
          type="search"
          aria-label="Find a tool"
          placeholder="Find"
          bind:value={find}
        />
      {/if}
    </div>
    <ul class="space-y-3">
      {#each now.toolList.filter((one) => `${one.name} ${one.description}`
          .toLowerCase()
          .includes(find.toLowerCase())) as tool (tool.name)}
        <ServerTool server={now.name} {tool} begun={tool.name === wanted} />
      {/each}
    </ul>
    {#if editing}<ServerSettings server={now} bind:open={editing} />{/if}
  {/snippet}
</Loaded>
