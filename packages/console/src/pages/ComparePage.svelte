<script lang="ts">
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import State from '../parts/text/State.svelte';
import When from '../parts/text/When.svelte';
import ComparedUnit from '../run/compare/ComparedUnit.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name: id }: { name: string } = $props();
const other = $derived(router.query.get('other') ?? '');
const compared = new Resource(() => api.compareRuns({ id, query: other ? { other } : {} }));
const differing = $derived((compared.value?.rows ?? []).filter(({ differs }) => differs.length > 0));
const equal = $derived((compared.value?.rows ?? []).filter(({ differs }) => differs.length === 0));
</script>

<Loaded from={compared} page="Compare runs">
  {#snippet children(now)}
    <PageHead title="Compare runs of {now.other.flow}" back={{ to: `/runs/${id}`, label: 'Run' }} />
    <p class="mb-4 flex flex-wrap items-center gap-3">
      <span>This run: <a class="link font-mono text-sm" href="/runs/{id}">{id}</a></span>
      <span
        >Other run: <a class="link font-mono text-sm" href="/runs/{now.other.id}">{now.other.id}</a>
        <State state={now.other.state} />
        <span class="text-soft">started <When at={now.other.startedAt} /></span></span
      >
    </p>
    <p class="mb-4 font-semibold {now.first ? 'text-ochre' : 'text-spruce'}">
      {now.first ? `First difference: ${now.first}.` : 'No differences.'}
    </p>
    {#each differing as row (row.what)}
      <ComparedUnit {row} flow={now.other.flow} runs={[id, now.other.id]} />
    {/each}
    {#if equal.length > 0}
      <details>
        <summary class="cursor-pointer text-soft"
          >{plural(equal.length, 'equal step or call', 'equal steps and calls')}</summary
        >
        <ul class="mt-1 list-inside list-disc">
          {#each equal as row (row.what)}<li class="wrap-anywhere">{row.what}</li>{/each}
        </ul>
      </details>
    {/if}
  {/snippet}
</Loaded>
