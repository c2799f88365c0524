<script lang="ts">
import type { RunSummary } from '@pindro/contract/light';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import RunRows from '../parts/list/RunRows.svelte';
import SavedValues from '../saved/SavedValues.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const STATES: RunSummary['state'][] = ['running', 'done', 'failed', 'cancelled', 'interrupted'];
/** Filters of runs in addition to flow, state and caller. */
const MORE: { name: string; label: string; like?: string }[] = [
  { name: 'text', label: 'Words in it' },
  { name: 'tool', label: 'Tool' },
  { name: 'server', label: 'Tool server' },
  { name: 'model', label: 'Model connection' },
  { name: 'endpoint', label: 'Endpoint' },
  { name: 'finding', label: 'What was found', like: 'no_value' },
  { name: 'trace', label: 'Trace id' },
  { name: 'since', label: 'Started after', like: '2h' },
  { name: 'until', label: 'Started before', like: '1h' },
  { name: 'longer', label: 'Minimum duration', like: '5s' },
  { name: 'tokens', label: 'Minimum tokens' },
  { name: 'cost', label: 'Minimum cost' },
  { name: 'entry', label: 'Entry point', like: 'chat' },
  { name: 'session', label: 'Conversation' },
  { name: 'problem', label: 'Problem' },
];
const flows = new Resource(() => api.listFlows(), ['flow']);
const filter = $derived({
  flow: router.query.get('flow') ?? '',
  state: router.query.get('state') ?? '',
  caller: router.query.get('caller') ?? '',
  all: router.query.get('all') ?? '',
  failed: router.query.get('failed') ?? '',
  cursor: router.query.get('cursor') ?? '',
  ...Object.fromEntries(MORE.map(({ name }) => [name, router.query.get(name) ?? ''])),
} as Record<string, string>);
/** What is looked for, as the API takes it, but for what the list shows without being asked. */
const asked = $derived({
  ...Object.fromEntries(
    ['flow', 'state', 'caller', ...MORE.map(({ name }) => name)].flatMap((name) =>
      filter[name] ? [[name, filter[name]]] : [],
    ),
  ),
  ...(filter.failed && { failed: 'true' }),
} as Record<string, string>);
const runs = new Resource(
  () =>
    api.listRuns({
      query: {
        ...asked,
        limit: 30,
        ...(!filter.all && { roots: 'true' }),
        ...(filter.cursor && { cursor: filter.cursor }),
      },
    }),
  ['run', 'problem'],
);
/** Takes what was saved in place of all that is set. */
function choose(saved: Record<string, string>) {
  const none = Object.fromEntries(Object.keys(filter).map((name) => [name, '']));
  const { roots, failed, ...rest } = saved;
  router.filter({
    ...none,
    ...rest,
    ...(failed && { failed: 'yes' }),
    ...(roots ? {} : { all: filter.all ?? '' }),
  });
}
const change = (values: Record<string, string>) => router.filter({ ...filter, cursor: '', ...values });
const more = $derived(MORE.filter(({ name }) => filter[name]).length + (filter.failed ? 1 : 0));
const filtered = $derived(Boolean(filter.flow || filter.state || filter.caller || more > 0));
/** With the one that is chosen, which may be gone, or not be known yet. */
const flowNames = $derived([
  ...new Set([filter.flow, ...(flows.value?.items ?? []).map(({ name }) => name)].filter((name) => name !== '')),
]);
const uid = $props.id();
</script>

<PageHead title="Runs" about="All runs, newest first. New runs appear automatically." />
<form class="mb-4 flex flex-wrap items-end gap-3" aria-label="Filters" onsubmit={(event) => event.preventDefault()}>
  <div>
    <label class="label" for="{uid}-flow">Flow</label>
    <select
      id="{uid}-flow"
      class="field"
      value={filter.flow}
      onchange={(event) => change({ flow: event.currentTarget.value })}
      ><option value="">all</option>{#each flowNames as name (name)}<option>{name}</option>{/each}</select
    >
  </div>
  <div>
    <label class="label" for="{uid}-state">State</label>
    <select
      id="{uid}-state"
      class="field"
      value={filter.state}
      onchange={(event) => change({ state: event.currentTarget.value })}
      ><option value="">all</option>{#each STATES as state (state)}<option>{state}</option>{/each}</select
    >
  </div>
  <div>
    <label class="label" for="{uid}-caller">Caller</label>
    <input
      id="{uid}-caller"
      class="field"
      value={filter.caller}
      onchange={(event) => change({ caller: event.currentTarget.value })}
    />
  </div>
  <label class="flex items-center gap-2 pb-2"
    ><input
      type="checkbox"
      class="size-4 accent-[var(--spruce)]"
      checked={filter.all !== ''}
      onchange={(event) => change({ all: event.currentTarget.checked ? 'yes' : '' })}
    /> including runs started by other runs</label
  >
  <details class="w-full" open={more > 0}>
    <summary class="link w-fit cursor-pointer">
      More filters{more > 0 ? ` (${more} set)` : ''}
    </summary>
    <div class="mt-3 grid gap-3 sm:grid-cols-3 lg:grid-cols-5">
      {#each MORE as { name, label, like } (name)}
        <div>
          <label class="label" for="{uid}-{name}">{label}</label>
          <input
            id="{uid}-{name}"
            class="field"
            placeholder={like ?? ''}
            value={filter[name]}
            onchange={(event) => change({ [name]: event.currentTarget.value.trim() })}
          />
        </div>
      {/each}
    </div>
    <label class="mt-3 flex items-center gap-2">
      <input
        type="checkbox"
        class="size-4 accent-[var(--spruce)]"
        checked={filter.failed !== ''}
        onchange={(event) => change({ failed: event.currentTarget.checked ? 'yes' : '' })}
      /> with a failure, even if it was handled
    </label>
  </details>
  <SavedValues
    resource="filter"
    value={{ query: asked }}
    some={Object.keys(asked).length > 0}
    onChoose={(saved) => choose((saved?.query ?? {}) as Record<string, string>)}
  />
</form>
<Loaded from={runs}>
  {#snippet children(page)}
    {#if page.items.length === 0}
      {#if filtered}<Empty title="No matching runs">Remove a filter to see more.</Empty>{:else}<Empty
          title="No runs yet">Open a <a class="link" href="/flows">flow</a> and run it.</Empty
        >{/if}
    {:else}
      <RunRows runs={page.items} />
      <p class="mt-3 flex gap-2">
        {#if filter.cursor}<button type="button" class="button" onclick={() => change({})}>Newest</button>{/if}
        {#if page.next}<button
            type="button"
            class="button"
            onclick={() => router.filter({ ...filter, cursor: page.next ?? '' })}>Older</button
          >{/if}
      </p>
    {/if}
  {/snippet}
</Loaded>
