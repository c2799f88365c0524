<script lang="ts">
import Copy from '@lucide/svelte/icons/copy';
import Pause from '@lucide/svelte/icons/pause';
import Play from '@lucide/svelte/icons/play';
import Power from '@lucide/svelte/icons/power';
import Trash from '@lucide/svelte/icons/trash-2';
import type { KindSummary } from '@pindro/contract';
import { isObject, type Json, type JsonSchema } from '@pindro/core/browser';
import Value from '../parts/Value.svelte';
import ConfigForm from './ConfigForm.svelte';
import { reachable } from './data.js';
import LinksEditor from './LinksEditor.svelte';
import MoveTools from './MoveTools.svelte';
import type { FieldPlace } from './place.js';
import ReviewTools from './ReviewTools.svelte';
import { fieldsOf } from './schema.js';
import type { Editor } from './session.svelte.js';
import type { Trial } from './trial.svelte.js';

/** Everything about one step: what it is called, what it does, what it comes after, what came out last time. */
let { editor, trial, step, kinds }: { editor: Editor; trial: Trial; step: string; kinds: KindSummary[] } = $props();
const uid = $props.id();
const now = $derived(editor.steps[step]!);
const kind = $derived(kinds.find((one) => one.name === now.kind));
const config = $derived(isObject(now.with) ? now.with : {});
const path = $derived([...editor.at(step), 'with']);
let wanted = $derived(step);
const nameFault = $derived(
  wanted === step
    ? ''
    : !/^[a-z][a-z0-9_]*$/.test(wanted)
      ? 'Lower-case letters, digits and _, beginning with a letter.'
      : wanted in editor.steps
        ? 'There is such a step already.'
        : wanted === 'error' || wanted === 'otherwise'
          ? 'That word means a branch.'
          : '',
);

/** Steps that come before, directly or not. */
const before = $derived.by(() => {
  const seen = new Set<string>();
  const queue = [step];
  for (const name of queue)
    for (const link of editor.steps[name]?.after ?? []) {
      const from = link.split('.')[0]!;
      if (!seen.has(from)) {
        seen.add(from);
        queue.push(from);
      }
    }
  const outer = editor.place.length > 0 ? editor.drawing.cards.filter((card) => card.name !== editor.place[1]) : [];
  return [...editor.cards.filter((card) => seen.has(card.name)), ...outer];
});
const place = $derived<FieldPlace>({
  editor,
  lastInput: trial.lastInput,
  lastOutputs: trial.lastOutputs,
  data: reachable({
    input: editor.document.input ?? {},
    before,
    lastInput: trial.lastInput,
    lastOutputs: trial.lastOutputs,
    inLoop: editor.place.length > 0,
  }),
  schemaAt: (at) =>
    at.length > path.length + 1
      ? {}
      : (fieldsOf((kind?.schema ?? {}) as JsonSchema, config).find((field) => field.name === at[path.length])?.schema ??
        {}),
});
const output = $derived(editor.place.length === 0 ? trial.lastOutputs[step] : undefined);
const isHeld = $derived(trial.held.includes(step));

function rename() {
  if (nameFault === '' && wanted !== step) editor.rename(step, wanted);
}
function changeConfig(name: string, value: Json | undefined) {
  const next = { ...config };
  if (value === undefined) delete next[name];
  else next[name] = value;
  // Another operation takes other fields; what both take is kept.
  const known =
    name === 'do' ? new Set(fieldsOf((kind?.schema ?? {}) as JsonSchema, next).map((field) => field.name)) : null;
  const kept = known ? Object.fromEntries(Object.entries(next).filter(([key]) => known.has(key))) : next;
  editor.change(step, { with: kept } as never, name);
}
const shown = $derived(now.kind === 'each' && isObject(config.steps) ? ['steps'] : []);
</script>

<div class="mb-4 flex flex-wrap gap-1.5">
  <button type="button" class="button py-1 text-sm" onclick={() => void trial.runOnly(step)} disabled={trial.busy || trial.lastRun === null || editor.place.length > 0} title="On the data of the last run"><Play size={15} aria-hidden="true" /> Run this step</button>
  {#if editor.place.length === 0}
    <button type="button" class="button py-1 text-sm" aria-pressed={isHeld} disabled={!isHeld && output === undefined} onclick={() => void (isHeld ? trial.release(step) : trial.hold(step))}><Pause size={15} aria-hidden="true" /> {isHeld ? 'Let its result go' : 'Hold its result'}</button>
  {/if}
  <button type="button" class="button py-1 text-sm" onclick={() => editor.duplicate()}><Copy size={15} aria-hidden="true" /> Duplicate</button>
  <button type="button" class="button py-1 text-sm" aria-pressed={now.off === true} onclick={() => editor.toggle()}><Power size={15} aria-hidden="true" /> {now.off ? 'Switch on' : 'Switch off'}</button>
  <button type="button" class="button py-1 text-sm" onclick={() => editor.remove()}><Trash size={15} aria-hidden="true" /> Remove</button>
</div>
{#if isHeld}<p class="mb-3 rounded-md bg-ochre-wash px-3 py-2 text-sm text-ochre">Its result is held: tries of the draft use it instead of doing the step. Live runs never do.</p>{/if}
<label class="label" for="{uid}-name">Name of the step</label>
<input id="{uid}-name" class="field mb-1 font-mono" bind:value={wanted} onblur={rename} onkeydown={(event) => event.key === 'Enter' && rename()} aria-invalid={nameFault !== ''} spellcheck="false" />
<p class="mb-3 text-sm {nameFault ? 'text-rowan' : 'text-soft'}">{nameFault || 'What refers to it follows when you rename it.'}</p>
{#each editor.mistakesAt(editor.at(step), false) as mistake (mistake.message)}<p class="mb-2 text-sm text-rowan">{mistake.message} {mistake.hint ?? ''}</p>{/each}
{#each editor.mistakesAt(path, false) as mistake (mistake.message)}<p class="mb-2 text-sm text-rowan">{mistake.message} {mistake.hint ?? ''}</p>{/each}
{#if kind}
  {#key step}
    <ConfigForm schema={kind.schema as JsonSchema} value={Object.fromEntries(Object.entries(config).filter(([key]) => !shown.includes(key)))} {path} {place} plain={kind.plain} onChange={changeConfig} />
{#if now.kind === 'agent' && Array.isArray(config.toolbox)}<ReviewTools {editor} at={editor.at(step)} />{/if}
{#if now.kind === 'agent'}<MoveTools {editor} at={editor.at(step)} toolbox={config.toolbox ?? null} />{/if}
  {/key}
  {#if shown.length > 0}<button type="button" class="button mb-4" onclick={() => editor.open(step)}>Open the steps inside ({Object.keys(isObject(config.steps) ? config.steps : {}).length})</button>{/if}
{/if}
<LinksEditor {editor} {step} />
<details class="mb-4">
  <summary class="cursor-pointer font-medium text-soft">When it fails, title, note</summary>
  <div class="mt-3">
    <label class="label" for="{uid}-error">When it fails</label>
    <select id="{uid}-error" class="field mb-3" value={now.on_error ?? 'stop'} onchange={(event) => editor.change(step, { on_error: event.currentTarget.value === 'stop' ? undefined : event.currentTarget.value } as never)}>
      <option value="stop">the run stops</option><option value="continue">the run goes on</option><option value="branch">it goes the way “error”</option>
    </select>
    <label class="label" for="{uid}-timeout">Longest time, for example 10s</label>
    <input id="{uid}-timeout" class="field mb-3" value={now.timeout ?? ''} oninput={(event) => editor.change(step, { timeout: event.currentTarget.value || undefined } as never, 'timeout')} />
    <label class="label" for="{uid}-retry">How many more attempts</label>
    <input id="{uid}-retry" type="number" min="0" max="20" class="field mb-3" value={now.retry?.times ?? 0} oninput={(event) => editor.change(step, { retry: Number(event.currentTarget.value) > 0 ? { ...now.retry, times: Number(event.currentTarget.value) } : undefined } as never, 'retry')} />
    <label class="label" for="{uid}-title">Title on the card</label>
    <input id="{uid}-title" class="field mb-3" value={now.title ?? ''} oninput={(event) => editor.change(step, { title: event.currentTarget.value || undefined } as never, 'title')} />
    <label class="label" for="{uid}-note">Note</label>
    <textarea id="{uid}-note" class="field" rows="2" value={now.note ?? ''} oninput={(event) => editor.change(step, { note: event.currentTarget.value || undefined } as never, 'note')}></textarea>
  </div>
</details>
{#if output !== undefined}
  <h2 class="mb-1">What came out last time</h2>
  <div class="rounded-md bg-sunk p-3 text-sm"><Value value={output} name="last result" /></div>
{/if}
