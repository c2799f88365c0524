<script lang="ts">
import ShieldAlert from '@lucide/svelte/icons/shield-alert';
import type { ServerDetail } from '@pindro/contract/light';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import Problem from '../parts/text/Problem.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';
import Difference from './Difference.svelte';
import History from './History.svelte';

/** How the tools differ from what was accepted: each can be taken as it is now, or not. */
let { server }: { server: ServerDetail } = $props();
const uid = $props.id();
const changes = new Resource(() => api.serverChanges({ name: server.name }), ['server']);
const settle = new Action(async (what: 'accept' | 'refuse', tools?: string[]) => {
  const call = { name: server.name, body: tools ? { tools } : {} };
  await (what === 'accept' ? api.acceptChanges(call) : api.rejectChanges(call));
  await changes.refresh();
});
const follow = new Action((watch: ServerDetail['watch']) =>
  api.updateServer({ name: server.name, body: { watch, skipTest: true } }),
);
</script>

<div class="mb-5 flex flex-wrap items-center gap-2">
  <label for="{uid}-watch">When tools change,</label>
  <select
    id="{uid}-watch"
    class="field w-auto"
    value={server.watch}
    onchange={(event) => void follow.run(event.currentTarget.value as ServerDetail['watch'])}
  >
    <option value="flagged">put suspicious changes on hold until somebody accepts them</option>
    <option value="hold">put all changes on hold until somebody accepts them</option>
    <option value="allow">accept all changes automatically</option>
  </select>
</div>
{#if follow.problem}<div class="mb-4"><Problem problem={follow.problem} /></div>{/if}
<Loaded from={changes}>
  {#snippet children({ items })}
    {#if settle.problem}<div class="mb-4"><Problem problem={settle.problem} /></div>{/if}
    {#if items.length === 0}
      <Empty title="No changes since the tools were accepted">Changes appear here with their consequences.</Empty>
    {:else}
      <div class="mb-3 flex flex-wrap items-center justify-between gap-2">
        <h2>{items.length === 1 ? 'One change to review' : `${items.length} changes to review`}</h2>
        {#if items.length > 1}
          <button
            type="button"
            class="button button-small"
            disabled={settle.busy}
            onclick={() => void settle.run('accept')}>Accept all that are not flagged</button
          >
        {/if}
      </div>
      <ul class="space-y-4">
        {#each items as one (one.tool)}
          <li class="panel">
            <div class="mb-2 flex flex-wrap items-start justify-between gap-3">
              <p class="flex flex-wrap items-center gap-2">
                <span class="font-mono font-semibold">{one.tool}</span>
                {#if one.refused}<span class="tag text-rowan">{one.refused} rejected it</span>
                {:else if one.held}<span class="tag text-ochre"
                    >on hold{#if one.since}{' since '}<When at={one.since} />{/if}</span
                  >{:else if one.kind !== 'gone'}<span class="tag">in use</span>{/if}
              </p>
              <div class="flex gap-2">
                <button
                  type="button"
                  class="button button-small"
                  disabled={settle.busy}
                  onclick={() => void settle.run('accept', [one.tool])}
                  >Accept <span class="sr-only">{one.tool}</span></button
                >
                {#if !one.refused && one.kind !== 'gone'}
                  <button
                    type="button"
                    class="button button-small"
                    disabled={settle.busy}
                    onclick={() => void settle.run('refuse', [one.tool])}
                    >Reject <span class="sr-only">{one.tool}</span></button
                  >
                {/if}
              </div>
            </div>
            {#each one.flags as flag (flag.rule + flag.at)}
              <div class="mb-3 rounded-md bg-rowan-wash px-3 py-2 text-rowan">
                <p class="flex items-start gap-2 font-medium">
                  <ShieldAlert size={17} class="mt-0.5 shrink-0" aria-hidden="true" />{flag.says}
                </p>
                <p class="mt-1 font-mono text-sm wrap-anywhere">“{flag.quote}”</p>
              </div>
            {/each}
            <Difference change={one} description={one.description} />
          </li>
        {/each}
      </ul>
    {/if}
  {/snippet}
</Loaded>
<History {server} />
