<script lang="ts">
import Copy from '@lucide/svelte/icons/copy';
import Trash from '@lucide/svelte/icons/trash-2';
import type { EntrySettings, FlowDetail, EntryPoint } from '@pindro/contract/light';
import Code from '../../parts/text/Code.svelte';
import Problem from '../../parts/text/Problem.svelte';
import State from '../../parts/text/State.svelte';
import When from '../../parts/text/When.svelte';
import { api } from '../../state/api.js';
import { moment } from '../../state/format.js';
import { removing } from '../../state/removing.svelte.js';
import { Action } from '../../state/resource.svelte.js';
import EntryPointForm from './EntryPointForm.svelte';

interface Props {
  flow: FlowDetail;
  way: EntryPoint;
  /** What its kind is called. */
  label: string;
  /** Shows the secret that a copy has of its own. */
  onSecret: (secret: string | null) => void;
}
/** One entry point: address, switch, edit, copy and remove. */
let { flow, way, label, onSecret }: Props = $props();
let isEditing = $state(false);
const change = new Action((on: boolean) => api.updateEntry({ id: way.id, body: { on } }));
const copy = new Action(async () => onSecret((await api.copyEntry({ id: way.id, body: {} })).newSecret));
const save = new Action(async (settings: EntrySettings, path: string | undefined) => {
  await api.updateEntry({ id: way.id, body: { settings, ...(path && { path }) } });
  isEditing = false;
});
const problem = $derived(change.problem ?? copy.problem);

const GUARDS = { open: 'no authentication', key: 'requires an access key', signature: 'requires a signature' };
function say({ settings, nextAt }: EntryPoint): string {
  if (settings.kind === 'hook') {
    const answers = settings.answer === 'run' ? 'the run ID' : 'the result';
    return `${settings.methods.join(', ')}; ${GUARDS[settings.guard]}; answers with ${answers}`;
  }
  if (settings.kind !== 'schedule') return '';
  return `${settings.cron} in ${settings.zone}${nextAt ? `; next ${moment(nextAt)}` : ''}`;
}
</script>

<div class="flex flex-wrap items-center justify-between gap-3">
  <h2>
    {label}
    {#if !way.on}<State state="cancelled" label="disabled" />{/if}
  </h2>
  <div class="flex gap-2">
    <button type="button" class="button py-1" aria-pressed={way.on} onclick={() => void change.run(!way.on)}>
      {way.on ? 'Disable' : 'Enable'}
    </button>
    <button type="button" class="button py-1" onclick={() => (isEditing = !isEditing)} aria-expanded={isEditing}>
      Edit
    </button>
    <button
      type="button"
      class="button py-1"
      aria-label="Copy {label}"
      title="Copy; the copy is disabled until you enable it"
      disabled={copy.busy}
      onclick={() => void copy.run()}><Copy size={15} aria-hidden="true" /></button
    >
    <button
      type="button"
      class="button py-1"
      aria-label="Remove {label}"
      onclick={() => void removing.remove('entry', way.id, undefined, label)}
      ><Trash size={15} aria-hidden="true" /></button
    >
  </div>
</div>
<p class="text-soft">
  {say(way)}{#if way.usedAt}. Last used <When at={way.usedAt} />{/if}
</p>
{#if way.url}
  <div class="mt-2"><Code text={way.url} label="address" /></div>
  {#if way.settings.kind !== 'hook'}
    <p class="mt-1"><a class="link" href={way.url} target="_blank" rel="noopener">Open</a></p>
  {/if}
{/if}
{#if problem}<div class="mt-3"><Problem {problem} /></div>{/if}
{#if isEditing}
  <div class="mt-4">
    <EntryPointForm
      {flow}
      kind={way.settings.kind}
      settings={way.settings}
      path={way.path}
      busy={save.busy}
      problem={save.problem}
      onSave={(settings, path) => void save.run(settings, path)}
    />
  </div>
{/if}
