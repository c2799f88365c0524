<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import type { EndpointDetail } from '@pindro/contract/light';
import Problem from '../parts/Problem.svelte';
import Window from '../parts/Window.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';

/** Chooses flows, single tools of servers or whole servers for an endpoint. */
let { endpoint, open = $bindable() }: { endpoint: EndpointDetail; open: boolean } = $props();

const uid = $props.id();
const flows = new Resource(() => api.listFlows(), ['flow']);
const servers = new Resource(async () => {
  const { items } = await api.listServers();
  return Promise.all(items.map(({ name }) => api.getServer({ name })));
}, ['server']);
let search = $state('');
let chosen = $state.raw<string[]>([]);
const taken = $derived(new Set(endpoint.toolList.map(({ target }) => target)));

interface Choice {
  id: string;
  source: { flow: string } | { server: string; tool: string };
  name: string;
  about: string;
  note: string;
}
const choices = $derived<Choice[]>([
  ...(flows.value?.items ?? []).map((flow) => ({
    id: `flow ${flow.name}`,
    source: { flow: flow.name },
    name: flow.name.replaceAll('-', '_'),
    about: flow.description || flow.title,
    note: flow.revision === null ? 'flow, not published yet' : 'flow',
  })),
  ...(servers.value ?? []).flatMap((server) =>
    server.toolList.map((tool) => ({
      id: `${server.name}.${tool.name}`,
      source: { server: server.name, tool: tool.name },
      name: tool.name.toLowerCase().replaceAll(/[^a-z0-9_]/g, '_'),
      about: tool.description,
      note: `tool of ${server.name}`,
    })),
  ),
]);
const fitting = $derived(
  choices.filter((choice) => `${choice.id} ${choice.about}`.toLowerCase().includes(search.toLowerCase())),
);
const wholes = $derived(
  (servers.value ?? []).filter(
    ({ name }) => !(name in ((endpoint.document as { servers?: object }).servers ?? {})),
  ),
);
const put = new Action(async () => {
  const tools = Object.fromEntries(
    choices
      .filter(({ id }) => chosen.includes(id))
      .map(({ name, source }) => [name, source as Record<string, string>]),
  );
  const whole = chosen.filter((id) => id.startsWith('whole ')).map((id) => [id.slice(6), {}]);
  await api.putTools({ name: endpoint.name, body: { tools, servers: Object.fromEntries(whole) } });
  open = false;
});
const toggle = (id: string) =>
  (chosen = chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]);
</script>

<Window
  bind:open
  title="Put tools on {endpoint.title}"
  about="Only what you choose is exposed. A flow may stand on several endpoints under different names."
>
  <label class="label" for="{uid}-search">Find</label>
  <input id="{uid}-search" class="field mb-3" bind:value={search} placeholder="a flow or a tool" />
  <ul
    class="max-h-80 divide-y divide-line overflow-auto rounded-md border border-line"
    aria-label="What there is to choose"
  >
    {#each fitting as choice (choice.id)}
      {@const there = taken.has(choice.id)}
      <li class="px-3 py-2">
        <label class="flex items-start gap-3 {there ? 'opacity-60' : ''}"
          ><input
            type="checkbox"
            class="mt-1.5"
            disabled={there}
            checked={there || chosen.includes(choice.id)}
            onchange={() => toggle(choice.id)}
          /><span
            ><span class="font-mono font-semibold">{choice.name}</span>
            <span class="text-sm text-soft">{there ? 'on it already' : choice.note}</span><span
              class="block text-sm text-soft">{choice.about}</span
            ></span
          ></label
        >
      </li>
    {/each}
    {#each wholes as server (server.name)}
      <li class="px-3 py-2">
        <label class="flex items-start gap-3"
          ><input
            type="checkbox"
            class="mt-1.5"
            checked={chosen.includes(`whole ${server.name}`)}
            onchange={() => toggle(`whole ${server.name}`)}
          /><span
            ><span class="font-semibold">Everything of {server.name}</span><span class="block text-sm text-soft"
              >All {server.toolList.length} tools it has, and whatever it adds later, without a look from you.</span
            ></span
          ></label
        >
      </li>
    {/each}
    {#if fitting.length === 0 && wholes.length === 0}<li class="px-3 py-2 text-soft">Nothing of that name.</li>{/if}
  </ul>
  {#if put.problem}<div class="mt-4"><Problem problem={put.problem} /></div>{/if}
  <button
    type="button"
    class="button button-main mt-4"
    disabled={put.busy || chosen.length === 0}
    onclick={() => void put.run()}
    ><Plus size={16} aria-hidden="true" /> {put.busy ? 'Putting …' : `Put ${chosen.length || ''} on it`}</button
  >
</Window>
