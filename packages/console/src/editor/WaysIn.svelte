<script lang="ts">
import type { EntrySettings, FlowDetail } from '@pindro/contract/light';
import Code from '../parts/Code.svelte';
import Loaded from '../parts/Loaded.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';
import WayInForm from './WayInForm.svelte';
import WayRow from './WayRow.svelte';

/** How others reach the flow besides calling it as a tool. */
let { flow }: { flow: FlowDetail } = $props();
const ways = new Resource(() => api.listEntries({ query: { flow: flow.name } }), ['entry', 'flow']);
let kind = $state<EntrySettings['kind'] | null>(null);
let secret = $state<string | null>(null);
const KINDS = [
  { value: 'hook', label: 'Web hook', about: 'Another program calls an address.' },
  { value: 'form', label: 'Form page', about: 'People fill in its inputs.' },
  { value: 'chat', label: 'Chat page', about: 'People talk to it. It needs an input “message”.' },
  { value: 'schedule', label: 'Schedule', about: 'It begins by itself at set times.' },
] as const;
const NAMES = Object.fromEntries(KINDS.map((one) => [one.value, one.label])) as Record<
  EntrySettings['kind'],
  string
>;
const add = new Action(async (settings: EntrySettings, path: string | undefined) => {
  const made = await api.addEntry({ body: { flow: flow.name, settings, ...(path && { path }) } });
  secret = made.newSecret;
  kind = null;
});
</script>

{#if flow.revision === null}
  <p class="mb-4 rounded-md bg-ochre-wash px-4 py-2 text-ochre">
    The flow is not published yet. What comes in here reaches the live revision: publish it first.
  </p>
{/if}
<Loaded from={ways}>
  {#snippet children({ items })}
    <ul class="mb-6 space-y-3">
      {#each items as way (way.id)}
        <li class="panel">
          <WayRow {flow} {way} label={NAMES[way.settings.kind]} onSecret={(made) => (secret = made)} />
        </li>
      {:else}<li class="text-soft">No way in besides tools and by hand yet.</li>{/each}
    </ul>
  {/snippet}
</Loaded>
{#if secret}
  <div class="panel mb-6">
    <h2>The secret to sign with</h2>
    <p class="mb-2 text-sm text-soft">
      It is shown this once. Sign “ID.TIMESTAMP.BODY” with HMAC-SHA256, as the Standard Webhooks specification says.
    </p>
    <Code text={secret} label="secret" />
  </div>
{/if}
<section class="panel" aria-label="Open another way in">
  <h2 class="mb-3">Open another way in</h2>
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
      <WayInForm
        {flow}
        {kind}
        busy={add.busy}
        problem={add.problem}
        onSave={(settings, path) => void add.run(settings, path)}
      />
    {/key}
  {/if}
</section>
