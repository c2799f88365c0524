<script lang="ts">
import Trash from '@lucide/svelte/icons/trash-2';
import type { Json, JsonObject } from '@pindro/core/browser';
import { words } from '../state/format.js';
import ExprField from './ExprField.svelte';
import type { FieldPlace } from './place.js';

interface Props {
  id: string;
  label: string;
  about: string;
  value: JsonObject;
  path: string[];
  place: FieldPlace;
  onChange: (value: Json | undefined) => void;
}
/** Names and values: columns, headers, inputs of another flow. */
let { id, label, about, value, path, place, onChange }: Props = $props();
let fresh = $state('');

/** Numbers, yes and no are kept as such; everything else is text. */
function typed(text: Json | undefined): Json {
  if (typeof text !== 'string') return text ?? '';
  if (/^[[{]/.test(text)) return parsed(text);
  if (text.includes('${')) return text;
  if (text === 'true' || text === 'false') return text === 'true';
  return /^-?(?:0|[1-9]\d{0,14})(?:\.\d+)?$/.test(text) ? Number(text) : text;
}
function parsed(text: string): Json {
  try {
    return JSON.parse(text) as Json;
  } catch {
    return text;
  }
}
function remove(name: string) {
  const { [name]: _, ...rest } = value;
  onChange(Object.keys(rest).length > 0 ? rest : undefined);
}
function add() {
  if (fresh.trim() === '' || fresh in value) return;
  onChange({ ...value, [fresh.trim()]: '' });
  fresh = '';
}
</script>

<fieldset class="mb-4 rounded-md border border-line p-3">
  <legend class="px-1 font-medium">{label}</legend>
  {#if about}<p class="mb-2 text-sm text-soft">{about}</p>{/if}
  {#each Object.entries(value) as [name, inner] (name)}
    <div class="flex gap-1">
      <div class="min-w-0 grow"><ExprField id="{id}-{name}" label={words(name)} value={inner} path={[...path, name]} {place} required onChange={(next) => onChange({ ...value, [name]: typed(next) })} /></div>
      <button type="button" class="mb-4 self-start rounded p-1 text-soft hover:text-rowan" aria-label="Take out {words(name)}" onclick={() => remove(name)}><Trash size={16} aria-hidden="true" /></button>
    </div>
  {/each}
  <div class="flex gap-2">
    <label class="sr-only" for="{id}-new">New name in {label}</label>
    <input id="{id}-new" class="field py-1" placeholder="name" bind:value={fresh} onkeydown={(event) => { if (event.key === 'Enter') { event.preventDefault(); add(); } }} />
    <button type="button" class="button py-1" onclick={add} disabled={fresh.trim() === ''}>Add</button>
  </div>
</fieldset>
