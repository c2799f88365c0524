<script lang="ts">
import Trash from '@lucide/svelte/icons/trash-2';
import {
  isObject,
  type Json,
  type JsonSchema,
  putInput,
  readValue,
  removeInput,
  renameInput,
  showValue,
  withValue,
} from '@pindro/core/browser';
import type { Editor } from './session.svelte.js';

/** The inputs of a flow: as a form, and as the JSON Schema that they are; both show the same. */
let { editor }: { editor: Editor } = $props();
const uid = $props.id();
const TYPES = ['string', 'integer', 'number', 'boolean', 'array', 'object'];
const FORMATS = ['', 'date', 'date-time', 'email', 'uri', 'password'];
const inputs = $derived(
  Object.entries(isObject(editor.document.input?.properties) ? editor.document.input.properties : {}) as [
    string,
    JsonSchema,
  ][],
);
const required = $derived(
  Array.isArray(editor.document.input?.required) ? editor.document.input.required.map(String) : [],
);
let fresh = $state('');
let asSchema = $state(false);
let wrong = $state('');

function put(name: string, change: { [key: string]: Json | undefined }, needed = required.includes(name)) {
  const next = { ...inputs.find(([one]) => one === name)?.[1], ...change } as { [key: string]: Json | undefined };
  for (const key of Object.keys(next)) if (next[key] === undefined || next[key] === '') delete next[key];
  editor.apply(putInput(editor.document, name, next as JsonSchema, needed), `input/${name}`);
}
function rename(name: string, wanted: string) {
  if (wanted !== name && /^[a-zA-Z_]\w*$/.test(wanted) && !inputs.some(([one]) => one === wanted))
    editor.apply(renameInput(editor.document, name, wanted));
}
function add() {
  if (!/^[a-zA-Z_]\w*$/.test(fresh)) return;
  editor.apply(putInput(editor.document, fresh, { type: 'string' }, true));
  fresh = '';
}
function typed(text: string) {
  try {
    const read = readValue(text);
    wrong = read === undefined || isObject(read) ? '' : 'The schema of the inputs is an object.';
    if (wrong === '') editor.apply(withValue(editor.document, ['input'], read), 'input-schema');
  } catch (error) {
    wrong = (error as Error).message.split('\n')[0] ?? '';
  }
}
</script>

<div class="mb-2 flex items-center justify-between"><h2>Inputs</h2><label class="flex items-center gap-1.5 text-sm"><input type="checkbox" class="accent-[var(--spruce)]" bind:checked={asSchema} />as JSON Schema</label></div>
{#if asSchema}
  <label class="sr-only" for="{uid}-schema">JSON Schema of the inputs</label>
  <textarea id="{uid}-schema" class="field font-mono text-[0.85rem]" rows="12" value={showValue(editor.document.input as Json | undefined)} onchange={(event) => typed(event.currentTarget.value)} spellcheck="false"></textarea>
  {#if wrong}<p class="mt-1 text-sm text-rowan">{wrong}</p>{/if}
{:else}
  <ul class="space-y-2">
    {#each inputs as [name, schema] (name)}
      <li class="rounded-md border border-line p-3">
        <div class="grid grid-cols-[1fr_auto] gap-2">
          <div><label class="label text-sm" for="{uid}-{name}-name">Name</label><input id="{uid}-{name}-name" class="field py-1 font-mono" value={name} onchange={(event) => rename(name, event.currentTarget.value)} /></div>
          <button type="button" class="self-end rounded p-2 text-soft hover:text-rowan" aria-label="Take out input {name}" onclick={() => editor.apply(removeInput(editor.document, name))}><Trash size={16} aria-hidden="true" /></button>
        </div>
        <label class="label mt-2 text-sm" for="{uid}-{name}-about">What it is, for people and models</label>
        <input id="{uid}-{name}-about" class="field py-1" value={String(schema.description ?? '')} oninput={(event) => put(name, { description: event.currentTarget.value })} />
        <div class="mt-2 grid grid-cols-2 gap-2">
          <div><label class="label text-sm" for="{uid}-{name}-type">Type</label><select id="{uid}-{name}-type" class="field py-1" value={String(schema.type ?? 'string')} onchange={(event) => put(name, { type: event.currentTarget.value })}>{#each TYPES as one (one)}<option>{one}</option>{/each}</select></div>
          {#if (schema.type ?? 'string') === 'string'}<div><label class="label text-sm" for="{uid}-{name}-format">Format</label><select id="{uid}-{name}-format" class="field py-1" value={String(schema.format ?? '')} onchange={(event) => put(name, { format: event.currentTarget.value })}>{#each FORMATS as one (one)}<option value={one}>{one || 'any text'}</option>{/each}</select></div>{/if}
        </div>
        {#if (schema.type ?? 'string') === 'string' && !schema.format}<label class="label mt-2 text-sm" for="{uid}-{name}-enum">Only these values, with commas between</label><input id="{uid}-{name}-enum" class="field py-1" value={Array.isArray(schema.enum) ? schema.enum.join(', ') : ''} onchange={(event) => put(name, { enum: event.currentTarget.value.trim() ? event.currentTarget.value.split(',').map((one) => one.trim()).filter(Boolean) : undefined })} />{/if}
        <label class="mt-2 flex items-center gap-1.5 text-sm"><input type="checkbox" class="accent-[var(--spruce)]" checked={required.includes(name)} onchange={(event) => put(name, {}, event.currentTarget.checked)} />it must be given</label>
      </li>
    {/each}
  </ul>
  {#if inputs.length === 0}<p class="text-sm text-soft">It takes no input yet. Add one, or use “ask the caller for this” on any field of a step.</p>{/if}
  <div class="mt-2 flex gap-2"><label class="sr-only" for="{uid}-new">Name of a new input</label><input id="{uid}-new" class="field py-1" placeholder="new input" bind:value={fresh} onkeydown={(event) => event.key === 'Enter' && add()} /><button type="button" class="button py-1" onclick={add} disabled={!/^[a-zA-Z_]\w*$/.test(fresh)}>Add</button></div>
{/if}
