<script lang="ts">
import type { Approval } from '@pindro/contract/light';
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import State from '../parts/State.svelte';
import Value from '../values/Value.svelte';
import { api } from '../state/api.js';
import { moment, words } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

const approvals = new Resource(() => api.listApprovals({ query: { open: 'false' } }), ['approval', 'run']);
let notes = $state<Record<string, string>>({});
const keyOf = (one: Approval) => `${one.run}/${one.path}`;
const decide = new Action((one: Approval, decision: 'approved' | 'refused') =>
  api.decide({ run: one.run, body: { path: one.path, decision, note: notes[keyOf(one)] ?? '' } }),
);
</script>

<PageHead title="Approvals" about="Runs that wait until a person decides. They wait through a restart as well." />
{#if decide.problem}<div class="mb-4"><Problem problem={decide.problem} /></div>{/if}
<Loaded from={approvals}>
  {#snippet children({ items })}
    {@const open = items.filter((one) => one.decision === null)}
    {@const done = items.filter((one) => one.decision !== null)}
    {#if open.length === 0}<Empty title="Nothing waits for you"
        >A flow with a step “Ask for approval” shows up here when it waits.</Empty
      >{/if}
    <ul class="space-y-4">
      {#each open as one (keyOf(one))}
        <li class="panel">
          <h2>{one.title}</h2>
          <p class="mb-3 text-sm text-soft">
            asked by flow <a class="link" href="/flows/{one.flow}">{words(one.flow)}</a> for {one.caller}, {moment(
              one.askedAt,
            )}{one.until ? `; until ${moment(one.until)}` : ''}.
            <a class="link" href="/runs/{one.run}">See the run</a>
          </p>
          {#if one.message}<p class="mb-3 whitespace-pre-wrap">{one.message}</p>{/if}
          {#if Object.keys(one.facts).length > 0}<div class="mb-3 rounded-md bg-sunk p-3">
              <Value value={one.facts} name="facts" json={false} />
            </div>{/if}
          <label class="label" for="note-{keyOf(one)}">A word with it (if you like)</label>
          <input id="note-{keyOf(one)}" class="field mb-3" bind:value={notes[keyOf(one)]} />
          <div class="flex gap-2">
            <button
              type="button"
              class="button button-main"
              disabled={decide.busy}
              onclick={() => void decide.run(one, 'approved')}>Approve</button
            ><button
              type="button"
              class="button"
              disabled={decide.busy}
              onclick={() => void decide.run(one, 'refused')}>Refuse</button
            >
          </div>
        </li>
      {/each}
    </ul>
    {#if done.length > 0}
      <h2 class="mt-8 mb-2">Decided</h2>
      <ul class="divide-y divide-line rounded-lg border border-line bg-card">
        {#each done as one (keyOf(one))}<li class="flex flex-wrap justify-between gap-2 px-4 py-2">
            <span
              >{one.title}
              <span class="text-soft">{one.by ? `by ${one.by}` : ''}{one.note ? `: ${one.note}` : ''}</span></span
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
