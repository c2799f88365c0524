<script lang="ts">
import type { Approval } from '@pindro/contract/light';
import Question from '../asked/Question.svelte';
import StandingApprovals from '../asked/StandingApprovals.svelte';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import State from '../parts/text/State.svelte';
import { api } from '../state/api.js';
import { moment, words } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';

const approvals = new Resource(() => api.listApprovals({ query: { open: 'false' } }), ['approval', 'run']);
/** Arguments that the approver changed. */
const changesOf = ({ facts, sent }: Approval): string[] =>
  Object.keys({ ...facts, ...sent })
    .filter((name) => sent && JSON.stringify(facts[name]) !== JSON.stringify(sent[name]))
    .map(
      (name) => `${words(name)}: ${JSON.stringify(facts[name]) ?? 'not there'} → ${JSON.stringify(sent?.[name])}`,
    );
const keyOf = (one: Approval) => `${one.run}/${one.path}`;
</script>

<PageHead title="Approvals" about="Runs that wait for a person's decision. They survive a restart." />
<Loaded from={approvals}>
  {#snippet children({ items })}
    {@const open = items.filter((one) => one.decision === null)}
    {@const done = items.filter((one) => one.decision !== null)}
    {#if open.length === 0}<Empty title="No pending approvals"
        >Runs of a flow with a step “Ask for approval”, or of an agent whose tool requires approval, appear here
        while they wait.</Empty
      >{/if}
    <ul class="space-y-4">
      {#each open as one (keyOf(one))}
        <li><Question question={one} /></li>
      {/each}
    </ul>
    <StandingApprovals />
    {#if done.length > 0}
      <h2 class="mt-8 mb-2">Decided</h2>
      <ul class="divide-y divide-line rounded-lg border border-line bg-card">
        {#each done as one (keyOf(one))}<li class="flex flex-wrap justify-between gap-2 px-4 py-2">
            <span
              >{one.title}
              <span class="text-soft"
                >{one.by ? `by ${one.by}` : ''}{one.decidedAt ? `, ${moment(one.decidedAt)}` : ''}{one.note
                  ? `: ${one.note}`
                  : ''}</span
              >{#each changesOf(one) as change (change)}<span class="block text-sm text-ochre">{change}</span
                >{/each}</span
            ><span class="flex items-center gap-2"
              ><State state={one.decision === 'approved' ? 'done' : 'cancelled'} label={one.decision ?? ''} /><a
                class="link"
                href="/runs/{one.run}">run</a
              ></span
            >
          </li>{/each}
      </ul>
    {/if}
  {/snippet}
</Loaded>
