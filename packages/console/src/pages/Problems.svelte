<script lang="ts">
import type { ProblemState } from '@pindro/contract/light';
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import ProblemStateWords from '../parts/ProblemState.svelte';
import Rows from '../parts/Rows.svelte';
import { wasteWords } from '../parts/waste.js';
import When from '../parts/When.svelte';
import { api } from '../state/api.js';
import { words } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const STATES: { state: ProblemState | 'dealt-with' | ''; label: string }[] = [
  { state: '', label: 'open or back' },
  { state: 'returned', label: 'came back' },
  { state: 'expected', label: 'expected' },
  { state: 'mended', label: 'mended' },
  { state: 'dealt-with', label: 'dealt with in the run, the dearest first' },
];
const state = $derived((router.query.get('state') ?? '') as ProblemState | 'dealt-with' | '');
const query = $derived(state === 'dealt-with' ? { dealtWith: 'true' as const } : state ? { state } : {});
const problems = new Resource(() => api.listProblems({ query: { limit: 200, ...query } }), ['problem', 'run']);
const uid = $props.id();
</script>

<PageHead title="Problems" about="What goes wrong across runs: how often, since when, and what came back." />
<form class="mb-4" aria-label="Filters" onsubmit={(event) => event.preventDefault()}>
  <label class="label" for="{uid}-state">Which</label>
  <select
    id="{uid}-state"
    class="field w-auto"
    value={state}
    onchange={(event) => router.filter({ state: event.currentTarget.value })}
  >
    {#each STATES as one (one.state)}<option value={one.state}>{one.label}</option>{/each}
  </select>
  <a class="link ml-4" href="/api/v1/problems/feed">As a feed</a>
</form>
<Loaded from={problems}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title={state ? 'None is like that' : 'No problem is open'}>
        What goes wrong in a run stands here, once, however often it happens.
      </Empty>
    {:else}
      <Rows
        label="Problems"
        headings={['What goes wrong', 'Flow', 'Runs', 'First', 'Last', state === 'dealt-with' ? 'Spent' : 'State']}
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
            >{#if state === 'dealt-with'}{wasteWords(one.waste) || 'nothing'}{:else}<ProblemStateWords
                {...one}
              />{/if}</td
          >
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
