<script lang="ts">
import { SPEAKS_WORDS } from '@pindro/contract/light';
import Pencil from '@lucide/svelte/icons/pencil';
import Power from '@lucide/svelte/icons/power';
import RefreshCw from '@lucide/svelte/icons/refresh-cw';
import Loaded from '../parts/text/Loaded.svelte';
import Problem from '../parts/text/Problem.svelte';
import State from '../parts/text/State.svelte';
import ThingHead from '../parts/resource/ThingHead.svelte';
import ViewTabs from '../parts/list/ViewTabs.svelte';
import When from '../parts/text/When.svelte';
import AboutServer from '../servers/AboutServer.svelte';
import AllowProgram from '../servers/AllowProgram.svelte';
import Changes from '../servers/Changes.svelte';
import LogView from '../servers/LogView.svelte';
import ServerSettings from '../servers/ServerSettings.svelte';
import ToolList from '../servers/ToolList.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import { localProblem } from '../state/local-problem.js';

let { name }: { name: string } = $props();

const server = new Resource(() => api.getServer({ name }), ['server', 'flow', 'endpoint']);
const refresh = new Action(() => api.refreshServer({ name }));
const turn = new Action((on: boolean) => api.updateServer({ name, body: { on, skipTest: true } }));
let allowing = $state(false);
let editing = $state(false);
const view = $derived(router.query.get('view') ?? '');
const views = $derived([
  { value: '', label: 'Tools' },
  { value: 'changes', label: server.value?.held ? `Changes (${server.value.held} on hold)` : 'Changes' },
  { value: 'activity', label: 'Recent activity' },
  { value: 'log', label: 'Log' },
  { value: 'about', label: 'About' },
]);
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
          <Pencil size={16} aria-hidden="true" /> Edit
        </button>
        <button
          type="button"
          class="button"
          disabled={turn.busy}
          onclick={() => void turn.run(now.state === 'off')}
        >
          <Power size={16} aria-hidden="true" />
          {now.state === 'off' ? 'Enable' : 'Disable'}
        </button>
        <button
          type="button"
          class="button"
          disabled={refresh.busy || now.state === 'off'}
          onclick={() => void refresh.run()}
        >
          <RefreshCw size={16} aria-hidden="true" />
          {refresh.busy ? 'Asking …' : 'Refresh tools'}
        </button>
      {/snippet}
    </ThingHead>
    <div class="mb-6 space-y-3">
      <p class="flex flex-wrap items-center gap-3">
        <State state={now.state} /> <span class="font-mono text-sm wrap-anywhere">{now.where}</span>
        <span class="text-sm text-soft">{SPEAKS_WORDS[now.speaks]}</span>
        <span class="text-soft">last seen <When at={now.seenAt} /></span>
        {#if now.credential}
          <span class="text-sm"
            >with <a class="link" href="/credentials?open={now.credential}">{now.credential}</a></span
          >
        {/if}
      </p>
      {#if now.program && (!now.allowed || now.needsApproval)}
        <div class="rounded-md bg-ochre-wash px-4 py-3 text-ochre">
          <p class="mb-2">
            {now.allowed
              ? 'This program has changed since an owner allowed it. Review it before it runs again.'
              : 'No owner has allowed this program yet. Review it first: it has the same permissions as the service.'}
          </p>
          <button type="button" class="button" onclick={() => (allowing = true)}>Review and allow</button>
        </div>
      {/if}
      {#if now.trouble}
        <Problem problem={localProblem(now.trouble, now.fix ?? '')} />
        {#if now.leftAloneUntil}
          <p class="text-sm text-soft">
            Calls are rejected because of repeated failures. Pindro checks automatically and resumes.
          </p>
        {/if}
        {#if view !== 'log'}<p><a class="link" href="/servers/{now.name}?view=log">View log</a></p>{/if}
      {/if}
      {#if refresh.problem && !now.trouble}<Problem problem={refresh.problem} />{/if}
      {#if refresh.result}
        {@const { tools, added, removed } = refresh.result}
        <p role="status">It responded with {plural(tools, 'tool')}{named(added, 'new')}{named(removed, 'gone')}.</p>
      {/if}
    </div>
    <ViewTabs {views} label="Views of the tool server" />
    {#if view === 'changes'}<Changes server={now} />
    {:else if view === 'activity'}
      {#await import('../servers/RecentCalls.svelte') then { default: RecentCalls }}<RecentCalls
          server={now}
        />{/await}
    {:else if view === 'log'}{#key now.name}<LogView server={now} />{/key}
    {:else if view === 'about'}{#key now.name}<AboutServer server={now} />{/key}
    {:else}<ToolList server={now} />{/if}
    {#if allowing}<AllowProgram name={now.name} bind:open={allowing} />{/if}
    {#if editing}<ServerSettings server={now} bind:open={editing} />{/if}
  {/snippet}
</Loaded>
