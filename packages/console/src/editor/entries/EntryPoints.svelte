<script lang="ts">
import type { EntrySettings, FlowDetail } from '@pindro/contract/light';
import Code from '../../parts/text/Code.svelte';
import Loaded from '../../parts/text/Loaded.svelte';
import { api } from '../../state/api.js';
import { Action, Resource } from '../../state/resource.svelte.js';
import EntryPointForm from './EntryPointForm.svelte';
import EntryPointRow from './EntryPointRow.svelte';

/** Entry points of the flow other than tool calls. */
let { flow }: { flow: FlowDetail } = $props();
const ways = new Resource(() => api.listEntries({ query: { flow: flow.name } }), ['entry', 'flow']);
let kind = $state<EntrySettings['kind'] | null>(null);
let secret = $state<string | null>(null);
const KINDS = [
  { value: 'hook', label: 'Webhook', about: 'Another program calls an address.' },
  { value: 'form', label: 'Form page', about: 'People fill in its inputs.' },
  { value: 'chat', label: 'Chat page', about: 'People chat with it. Requires an input “message”.' },
  { value: 'schedule', label: 'Schedule', about: 'Runs at scheduled times.' },
] as const;
const NAMES = Object.fromEntries(KINDS.map((one) => [one.value, one.label])) as Record<
  EntrySettings['kind'],
  string
>;
const add = new Action(async (settings: EntrySettings, path: string | undefined) => {
  const made = await api.createEntry({ body: { flow: flow.name, settings, ...(path && { path }) } });
  secret = made.newSecret;
  kind = null;
});
</script>

{#if flow.revision === null}
  <p class="mb-4 rounded-md bg-ochre-wash px-4 py-2 text-ochre">
    The flow is not published. Entry points use the live revision: publish it first.
  </p>
{/if}
<Loaded from={ways}>
  {#snippet children({ items })}
    <ul class="mb-6 space-y-3">
      {#each items as way (way.id)}
        <li class="panel">
          <EntryPointRow {flow} {way} label={NAMES[way.settings.kind]} onSecret={(made) => (secret = made)} />
        </li>
      {:else}<li class="text-soft">No entry points yet, except tools and manual runs.</li>{/each}
    </ul>
  {/snippet}
</Loaded>
{#if secret}
  <div class="panel mb-6">
    <h2>Signing secret</h2>
    <p class="mb-2 text-sm text-soft">
      Shown only once. Sign “ID.TIMESTAMP.BODY” with HMAC-SHA256, according to the Standard Webhooks specification.
    </p>
    <Code text={secret} label="secret" />
  </div>
{/if}
<section class="panel" aria-label="Add entry point">
  <h2 class="mb-3">Add entry point</h2>
  <div class="mb-4 grid gap-2 sm:grid-cols-2 lg:grid-cols-4">
    {#each KINDS as one (one.value)}
      <button
        type="button"
        class="rounded-lg border p-3 text-left {kind === one.value
          ? 'border-spruce bg-spruce-wash'
          : 'border-line hover:border-soft'}"
        aria-pressed={kind === one.value}
        onclick={() => (kind = kind === one.value ? null : one.value)}
      >
        <span class="font-semibold">{one.label}</span><span class="block text-sm text-soft">{one.about}</span>
      </button>
    {/each}
  </div>
  {#if kind}
    {#key kind}
      <EntryPointForm
        {flow}
        {kind}
        busy={add.busy}
        problem={add.problem}
        onSave={(settings, path) => void add.run(settings, path)}
      />
    {/key}
  {/if}
</section>
