<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import type { EndpointDetail } from '@pindro/contract/light';
import Problem from '../parts/text/Problem.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { type Choice, Choices } from '../toolbox/choices.svelte.js';
import ToolPicker from '../toolbox/ToolPicker.svelte';

/** Chooses flows, single tools of servers or whole servers for an endpoint. */
let { endpoint, open = $bindable() }: { endpoint: EndpointDetail; open: boolean } = $props();

const choices = new Choices();
const servers = new Resource(() => api.listServers(), ['server']);
let chosen = $state.raw<string[]>([]);
const taken = $derived(new Set(endpoint.toolList.map(({ target }) => target)));
const targetOf = ({ from, source, tool }: Choice) => (from === 'flow' ? `flow ${source}` : `${source}.${tool}`);
/** A name that fits a client: lower-case letters, digits and _. */
const nameOf = ({ from, tool }: Choice) =>
  from === 'flow' ? tool.replaceAll('-', '_') : tool.toLowerCase().replaceAll(/[^a-z0-9_]/g, '_');
const wholes = $derived(
  (servers.value?.items ?? []).filter(
    ({ name }) => !(name in ((endpoint.document as { servers?: object }).servers ?? {})),
  ),
);
const put = new Action(async () => {
  const tools = choices.all
    .filter(({ id }) => chosen.includes(id))
    .map((one) => [
      nameOf(one),
      one.from === 'flow' ? { flow: one.source } : { server: one.source, tool: one.tool },
    ]);
  const whole = chosen.filter((id) => id.startsWith('whole ')).map((id) => [id.slice(6), {}]);
  const body = { tools: Object.fromEntries(tools), servers: Object.fromEntries(whole) };
  await api.addTools({ name: endpoint.name, body });
  open = false;
});
const toggle = (id: string) =>
  (chosen = chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]);
</script>

<Window
  bind:open
  title="Add tools {endpoint.title}"
  about="Only what you choose is exposed. A flow can be on several endpoints under different names."
>
  <ToolPicker
    {choices}
    only={({ from }) => from !== 'endpoint'}
    isOn={({ id }) => chosen.includes(id)}
    onToggle={({ id }) => toggle(id)}
    cannot={(choice) => (taken.has(targetOf(choice)) ? 'already added' : null)}
  />
  {#if wholes.length > 0}
    <ul class="mt-3 space-y-1" aria-label="Whole servers">
      {#each wholes as server (server.name)}
        <li>
          <label class="flex items-start gap-3"
            ><input
              type="checkbox"
              class="tick mt-1"
              checked={chosen.includes(`whole ${server.name}`)}
              onchange={() => toggle(`whole ${server.name}`)}
            /><span
              ><span class="font-semibold">All tools of {server.name}</span><span class="block text-sm text-soft"
                >All {server.tools} present tools, and future ones without review.</span
              ></span
            ></label
          >
        </li>
      {/each}
    </ul>
  {/if}
  {#if put.problem}<div class="mt-4"><Problem problem={put.problem} /></div>{/if}
  <button
    type="button"
    class="button button-main mt-4"
    disabled={put.busy || chosen.length === 0}
    onclick={() => void put.run()}
    ><Plus size={16} aria-hidden="true" /> {put.busy ? 'Adding …' : `Add ${chosen.length || ''}`}</button
  >
</Window>
