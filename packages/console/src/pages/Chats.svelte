<script lang="ts">
import type { FlowSummary } from '@pindro/contract/light';
import Empty from '../parts/list/Empty.svelte';
import ListHead from '../parts/list/ListHead.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { fits } from '../state/finding.js';
import { brief, plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';

/** Flows with chat, each with its recent conversations. */
const chats = new Resource(async () => {
  const { items } = await api.listFlows();
  const agents = items.filter((flow) => flow.agent);
  return Promise.all(
    agents.map(async (flow) => ({
      flow,
      talks: (await api.listConversations({ name: flow.name })).items.slice(0, 6),
    })),
  );
}, ['flow', 'run']);
const isShown = ({ flow }: { flow: FlowSummary }) => fits(flow.name, flow.title, flow.description);
</script>

<ListHead title="Chat" about="Flows that support chat: they have an agent and a “message” input." />
<Loaded from={chats}>
  {#snippet children(items)}
    {#if items.length === 0}
      <Empty title="No chat flows yet">
        A flow with an agent step and an input named <code class="chip">message</code> appears here. The template “An
        agent with tools” creates one.
      </Empty>
    {:else}
      <ul class="grid gap-4 lg:grid-cols-2">
        {#each items.filter(isShown) as { flow, talks } (flow.name)}
          <li class="panel">
            <h2><a class="link" href="/flows/{flow.name}/chat">{flow.title}</a></h2>
            <p class="mb-3 text-soft">{flow.description}</p>
            <ul class="space-y-1">
              {#each talks as talk (talk.session)}
                <li class="flex items-baseline justify-between gap-3">
                  <a class="min-w-0 truncate hover:underline" href="/flows/{flow.name}/chat?session={talk.session}">
                    {brief(talk.begins, 70)}
                  </a>
                  <span class="shrink-0 text-sm text-soft"
                    >{plural(talk.turns, 'turn')}, <When at={talk.lastAt} /></span
                  >
                </li>
              {/each}
            </ul>
          </li>
        {/each}
      </ul>
    {/if}
  {/snippet}
</Loaded>
