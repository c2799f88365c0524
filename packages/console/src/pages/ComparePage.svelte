<script lang="ts">
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Rows from '../parts/Rows.svelte';
import State from '../parts/State.svelte';
import When from '../parts/When.svelte';
import StubStep from '../run/StubStep.svelte';
import SideCell from '../run/SideCell.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name: id }: { name: string } = $props();
const other = $derived(router.query.get('other') ?? '');
const beside = new Resource(() => api.compareRuns({ id, query: other ? { other } : {} }));
const DIFFERS: Record<string, string> = {
  came: 'only on one side',
  status: 'status',
  input: 'input',
  output: 'output',
  error: 'error',
};
</script>

<Loaded from={beside} page="Compare runs">
  {#snippet children(now)}
    <PageHead title="Compare runs of {now.other.flow}" back={{ to: `/runs/${id}`, label: 'Run' }} />
    <p class="mb-4 flex flex-wrap items-center gap-3">
      <a class="link font-mono text-sm" href="/runs/{id}">{id}</a> compared with
      <a class="link font-mono text-sm" href="/runs/{now.other.id}">{now.other.id}</a>
      <State state={now.other.state} />
      <span class="text-soft">of <When at={now.other.startedAt} /></span>
    </p>
    <p class="mb-4 font-semibold {now.first ? 'text-ochre' : 'text-spruce'}">
      {now.first ? `First difference: ${now.first}.` : 'No differences.'}
    </p>
    <Rows
      label="Both runs"
      headings={['Field', 'This run', 'Other run', 'Differs in']}
      items={now.rows.map((row) => ({ ...row, id: row.what }))}
    >
      {#snippet row(one)}
        <td class="align-top font-semibold wrap-anywhere">{one.what}</td>
        {#each [{ side: one.one, run: id }, { side: one.other, run: now.other.id }] as { side, run } (run)}
          <td class="w-2/5 align-top">
            <SideCell {side} whole={one.what === now.first} />
            {#if one.work === 'step' && side?.status === 'ok' && /^[\w-]+$/.test(one.what)}
              <div class="mt-1"><StubStep flow={now.other.flow} step={one.what} {run} /></div>
            {/if}
          </td>
        {/each}
        <td class="align-top text-soft">{one.differs.map((part) => DIFFERS[part] ?? part).join(', ')}</td>
      {/snippet}
    </Rows>
  {/snippet}
</Loaded>
