<script lang="ts">
import When from '../parts/When.svelte';
import Trash from '@lucide/svelte/icons/trash-2';
import type { EntrySettings, FlowDetail, WayIn } from '@pindro/contract/light';
import Code from '../parts/Code.svelte';
import Loaded from '../parts/Loaded.svelte';
import Problem from '../parts/Problem.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { moment } from '../state/format.js';
import { removing } from '../state/removing.svelte.js';
import { Action, Resource } from '../state/resource.svelte.js';
import WayInForm from './WayInForm.svelte';

/** How others reach the flow besides calling it as a tool. */
let { flow }: { flow: FlowDetail } = $props();
const ways = new Resource(() => api.listEntries({ query: { flow: flow.name } }), ['entry', 'flow']);
let kind = $state<EntrySettings['kind'] | null>(null);
let editing = $state<string | null>(null);
let secret = $state<string | null>(null);
const KINDS = [
  { value: 'hook', label: 'Web hook', about: 'Another program calls an address.' },
  { value: 'form', label: 'Form page', about: 'People fill in its inputs.' },
  { value: 'chat', label: 'Chat page', about: 'People talk to it. It needs an input “message”.' },
  { value: 'schedule', label: 'Schedule', about: 'It begins by itself at set times.' },
] as const;
const NAMES = Object.fromEntries(KINDS.map((one) => [one.value, one.label]));
const change = new Action((id: string, on: boolean) => api.changeEntry({ id, body: { on } }));
const add = new Action(async (settings: EntrySettings, path: string | undefined) => {
  const made = await api.addEntry({ body: { flow: flow.name, settings, ...(path && { path }) } });
  secret = made.newSecret;
  kind = null;
});
const save = new Action(async (way: WayIn, settings: EntrySettings, path: string | undefined) => {
  await api.changeEntry({ id: way.id, body: { settings, ...(path && { path }) } });
  editing = null;
});
const GUARDS = { open: 'open to everybody', key: 'needs an access key', signature: 'must be signed' };
function say({ settings, nextAt }: WayIn): string {
  if (settings.kind === 'hook') {
    const answers = settings.answer === 'run' ? 'the id of the run' : 'the result';
    return `${settings.methods.join(', ')}; ${GUARDS[settings.guard]}; answers with ${answers}`;
  }
  if (settings.kind !== 'schedule') return '';
  return `${settings.cron} in ${settings.zone}${nextAt ? `; next ${moment(nextAt)}` : ''}`;
}
</script>

{#if flow.revision === null}<p class="mb-4 rounded-md bg-ochre-wash px-4 py-2 text-ochre">
    The flow is not published yet. What comes in here reaches the live revision: publish it first.
  </p>{/if}
<Loaded from={ways}>
  {#snippet children({ items })}
    <ul class="mb-6 space-y-3">
      {#each items as way (way.id)}
        <li class="panel">
          <div class="flex flex-wrap items-center justify-between gap-3">
            <h2>
              {NAMES[way.settings.kind]}
              {#if !way.on}<State state="cancelled" label="off" />{/if}
            </h2>
            <div class="flex gap-2">
              <button
                type="button"
                class="button py-1"
                aria-pressed={way.on}
                onclick={() => void change.run(way.id, !way.on)}>{way.on ? 'Switch off' : 'Switch on'}</button
              ><button
                type="button"
                class="button py-1"
                onclick={() => (editing = editing === way.id ? null : way.id)}
                aria-expanded={editing === way.id}>Change</button
              ><button
                type="button"
                class="button py-1"
                aria-label="Remove this {NAMES[way.settings.kind]}"
                onclick={() => void removing.remove('entry', way.id, undefined, NAMES[way.settings.kind])}
                ><Trash size={15} aria-hidden="true" /></button
              >
            </div>
          </div>
          <p class="text-soft">
            {say(way)}{#if way.usedAt}. Last used <When at={way.usedAt} />{/if}
          </p>
          {#if way.url}<div class="mt-2"><Code text={way.url} label="address" /></div>
            {#if way.settings.kind !== 'hook'}<p class="mt-1">
                <a class="link" href={way.url} target="_blank" rel="noopener">Open it</a>
              </p>{/if}{/if}
          {#if editing === way.id}<div class="mt-4">
              <WayInForm
                {flow}
                kind={way.settings.kind}
                settings={way.settings}
                path={way.path}
                busy={save.busy}
                problem={save.problem}
                onSave={(settings, path) => void save.run(way, settings, path)}
              />
            </div>{/if}
        </li>
      {:else}<li class="text-soft">No way in besides tools and by hand yet.</li>{/each}
    </ul>
  {/snippet}
</Loaded>
{#if change.problem}<div class="mb-4"><Problem problem={change.problem} /></div>{/if}
{#if secret}<div class="panel mb-6">
    <h2>The secret to sign with</h2>
    <p class="mb-2 text-sm text-soft">
      It is shown this once. Sign “ID.TIMESTAMP.BODY” with HMAC-SHA256, as the Standard Webhooks specification says.
    </p>
    <Code text={secret} label="secret" />
  </div>{/if}
<section class="panel" aria-label="Open another way in">
  <h2 class="mb-3">Open another way in</h2>
  <div class="mb-4 grid gap-2 sm:grid-cols-2 lg:grid-cols-4">
    {#each KINDS as one (one.value)}<button
        type="button"
        class="rounded-lg border p-3 text-left {kind === one.value
          ? 'border-spruce bg-spruce-wash'
          : 'border-line hover:border-soft'}"
        aria-pressed={kind === one.value}
        onclick={() => (kind = kind === one.value ? null : one.value)}
        ><span class="font-semibold">{one.label}</span><span class="block text-sm text-soft">{one.about}</span
        ></button
      >{/each}
  </div>
  {#if kind}{#key kind}<WayInForm
        {flow}
        {kind}
        busy={add.busy}
        problem={add.problem}
        onSave={(settings, path) => void add.run(settings, path)}
      />{/key}{/if}
</section>
