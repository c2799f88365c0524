<script lang="ts">
import Problem from '../parts/text/Problem.svelte';
import State from '../parts/text/State.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import Gaps from './Gaps.svelte';
import type { BundlePreview } from './import-selection.svelte.js';

type Item = BundlePreview['items'][number];
type Matches = { [type in Exclude<Item['type'], 'flows'>]?: Record<string, string> };

/** What the bundle of a flow holds and needs, and importing it. */
let { bundle, onLeave }: { bundle: { text: string; preview: BundlePreview }; onLeave: () => void } = $props();
const WORDS = {
  flows: 'Flow',
  tables: 'Table',
  servers: 'Tool server',
  models: 'Model connection',
  credentials: 'Credential',
  endpoints: 'Endpoint',
} as const;
const { items, flow } = $derived(bundle.preview);
const overwrites = $derived(items.filter(({ type, exists }) => type === 'flows' && exists));
let match = $state<Matches>({});

function choose({ type, name }: Item, to: string) {
  if (type === 'flows') return;
  const { [name]: _, ...others } = match[type] ?? {};
  match = { ...match, [type]: to === '' ? others : { ...others, [name]: to } };
}
function standing({ type, exists }: Item): string {
  if (type === 'flows') return exists ? 'overwrites the draft here' : 'new';
  if (exists) return 'exists';
  return type === 'tables' ? 'will be created' : 'missing';
}
const take = new Action(() =>
  api.importBundle({ body: { document: bundle.text, match, overwrite: overwrites.length > 0 } }),
);
const done = $derived(take.result);
</script>

<section class="mt-6" aria-labelledby="bundle">
  <h2 id="bundle" class="mb-2">Bundle of flow {flow}</h2>
  <ul class="mb-4 divide-y divide-line rounded-lg border border-line bg-card">
    {#each items as item, index (index)}
      <li class="flex flex-wrap items-center gap-3 px-4 py-2">
        <span class="min-w-40 text-soft">{WORDS[item.type]}</span>
        <span class="font-mono text-sm wrap-anywhere">{item.name}</span>
        <State
          state={item.type === 'flows' && item.exists ? 'changed' : item.exists ? 'ready' : 'waiting'}
          label={standing(item)}
        />
        {#if item.known.length > 0}
          <label class="ml-auto flex items-center gap-2 text-sm">
            Use instead
            <select
              class="field w-auto py-1"
              aria-label="Use instead of {WORDS[item.type].toLowerCase()} {item.name}"
              onchange={(event) => choose(item, event.currentTarget.value)}
            >
              <option value="">nothing</option>
              {#each item.known.filter((name) => name !== item.name) as name (name)}<option value={name}
                  >{name}</option
                >{/each}
            </select>
          </label>
        {/if}
      </li>
    {/each}
  </ul>
  {#if take.problem}<div class="mb-4"><Problem problem={take.problem} /></div>{/if}
  {#if done}
    <div role="status" class="space-y-4">
      <p class="font-semibold text-spruce">
        Imported {#each done.flows as name, index (name)}{index > 0 ? ', ' : ''}<a class="link" href="/flows/{name}"
            >{name}</a
          >{/each} as drafts.
      </p>
      <Gaps gaps={done.gaps} />
    </div>
  {:else}
    <div class="flex flex-wrap items-center gap-2">
      <button type="button" class="button button-main" disabled={take.busy} onclick={() => void take.run()}>
        {take.busy ? 'Importing …' : overwrites.length > 0 ? 'Overwrite and import' : 'Import as drafts'}
      </button>
      <button type="button" class="button" onclick={onLeave}>Cancel</button>
    </div>
  {/if}
</section>
