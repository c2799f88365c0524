<script lang="ts">
import type { ProblemState } from '@pindro/contract/light';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import ProblemStateWords from '../parts/finding/ProblemState.svelte';
import Rows from '../parts/list/Rows.svelte';
import { retryCostWords } from '../parts/finding/retry-cost.js';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { words } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const STATES: { state: ProblemState | 'dealt-with' | ''; label: string }[] = [
  { state: '', label: 'open or recurring' },
  { state: 'recurring', label: 'recurring' },
  { state: 'expected', label: 'expected' },
  { state: 'resolved', label: 'resolved' },
  { state: 'dealt-with', label: 'handled in the run, most expensive first' },
];
const state = $derived((router.query.get('state') ?? '') as ProblemState | 'dealt-with' | '');
const query = $derived(state === 'dealt-with' ? { handled: 'true' as const } : state ? { state } : {});
const problems = new Resource(() => api.listProblems({ query: { limit: 200, ...query } }), ['problem', 'run']);
const uid = $props.id();
</script>

<PageHead title="Problems" about="Failures across runs: frequency, first occurrence and recurrence." />
<form class="mb-4" aria-label="Filters" onsubmit={(event) => event.preventDefault()}>
  <label class="label" for="{uid}-state">State</label>
  <select
    id="{uid}-state"
    class="field w-auto"
    value={state}
    onchange={(event) => router.filter({ state: event.currentTarget.value })}
  >
    {#each STATES as one (one.state)}<option value={one.state}>{one.label}</option>{/each}
  </select>
  <a class="link ml-4" href="/api/v1/problems/feed">Atom feed</a>
</form>
<Loaded from={problems}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title={state ? 'No matching problems' : 'No open problems'}>
        Each failure is listed here once, however often it occurs.
      </Empty>
    {:else}
      <Rows
        label="Problems"
        headings={['Problem', 'Flow', 'Runs', 'First', 'Last', state === 'dealt-with' ? 'Cost' : 'State']}
        {items}
      >
        {#snippet row(one)}
          <td class="min-w-72">
            <a class="link wrap-anywhere" href="/problems/{one.id}">{one.title}</a>
          </td>
          <td>{words(one.flow)}</td>
          <td class="tabular-nums">{one.times}</td>
          <td class="whitespace-nowrap text-soft"><When at={one.firstAt} /></td>
          <td class="whitespace-nowrap text-soft"><When at={one.lastAt} /></td>
          <td
            >{#if state === 'dealt-with'}{retryCostWords(one.waste) || 'nothing'}{:else}<ProblemStateWords
                {...one}
              />{/if}</td
          >
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
