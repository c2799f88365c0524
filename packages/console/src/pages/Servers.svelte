<script lang="ts">
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import Rows from '../parts/Rows.svelte';
import SidePanel from '../parts/SidePanel.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { moment } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const servers = new Resource(() => api.listServers(), ['server']);
let name = $state('');
let url = $state('');
let secret = $state('');
let asked = $state(false);
const attach = new Action(() => api.attachServer({ body: { name, url, ...(secret && { secret }) } }));
const uid = $props.id();

async function send() {
  const attached = await attach.run();
  if (attached) return router.go(`/servers/${attached.name}`);
  // Only a server that refuses is asked a key for.
  if (attach.problem?.code === 'server_wants_key') asked = true;
}
</script>

<PageHead
  title="Tool servers"
  about="Other people's MCP servers. Attach one once, and every flow and agent can use its tools."
/>
<div class="grid gap-6 xl:grid-cols-[1fr_22rem]">
  <div class="min-w-0">
    <Loaded from={servers}>
      {#snippet children({ items })}
        {#if items.length === 0}
          <Empty title="No tool server yet"
            >Give its name and address on this page. Pindro asks it for its tools before it keeps anything.</Empty
          >
        {:else}
          <Rows label="Tool servers" headings={['Server', 'State', 'Tools', 'Last seen']} {items}>
            {#snippet row(one)}
              <td
                ><a class="link" href="/servers/{one.name}">{one.name}</a><br /><span class="text-sm text-soft"
                  >{one.about || one.url}</span
                ></td
              >
              <td
                ><State state={one.state} />{#if one.trouble}<p class="mt-1 max-w-sm text-sm text-rowan">
                    {one.trouble}
                  </p>{/if}</td
              >
              <td class="tabular-nums">{one.tools}</td>
              <td class="whitespace-nowrap text-soft">{moment(one.seenAt)}</td>
            {/snippet}
          </Rows>
        {/if}
      {/snippet}
    </Loaded>
  </div>
  <SidePanel title="Attach a tool server" onsubmit={send}>
    <label class="label" for="{uid}-name">Name</label>
    <input id="{uid}-name" class="field mb-4" bind:value={name} required placeholder="lift" />
    <label class="label" for="{uid}-url">Address</label>
    <input
      id="{uid}-url"
      class="field mb-4"
      bind:value={url}
      required
      type="url"
      placeholder="http://127.0.0.1:9000/mcp"
    />
    {#if asked}
      <label class="label" for="{uid}-secret">Its bearer key</label>
      <!-- svelte-ignore a11y_autofocus -->
      <input
        id="{uid}-secret"
        class="field mb-1"
        type="password"
        autocomplete="off"
        bind:value={secret}
        required
        autofocus
      />
      <p class="mb-4 text-sm text-soft">Sealed at once and never shown again. Leave out the word Bearer.</p>
    {/if}
    {#if attach.problem}<div class="mb-4">
        <Problem
          problem={asked && !secret
            ? { ...attach.problem, title: 'The server wants a key', hint: 'Give its bearer key and try again.' }
            : attach.problem}
        />
      </div>{/if}
    <button class="button button-main" disabled={attach.busy}
      >{attach.busy ? 'Asking it for its tools …' : 'Test and attach'}</button
    >
  </SidePanel>
</div>
