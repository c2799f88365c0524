<script lang="ts">
import type { FlowPreview } from '@pindro/contract';
import type { Json } from '@pindro/core/browser';
import { Resource } from '../state/resource.svelte.js';
import MakeHere from './MakeHere.svelte';
import { canMake, namesFor, wordFor } from './references.js';

interface Props {
  id: string;
  label: string;
  sort: string;
  value: Json | undefined;
  required: boolean;
  about: string;
  mistakes: FlowPreview['mistakes'];
  onChange: (value: Json | undefined) => void;
}
/** The name of something of the workspace: chosen, or made right here. */
let { id, label, sort, value, required, about, mistakes, onChange }: Props = $props();
// svelte-ignore state_referenced_locally
const names = new Resource(() => namesFor(sort), ['table', 'flow', 'server', 'model', 'credential']);
let making = $state(false);
const text = $derived(typeof value === 'string' ? value : '');
const unknown = $derived(text !== '' && names.value !== undefined && !names.value.includes(text));
</script>

<div class="mb-4">
  <label class="label" for={id}>{label}{#if !required}{' '}<span class="font-normal text-soft">(if you like)</span>{/if}</label>
  <div class="flex gap-2">
    <input {id} class="field {mistakes.length > 0 ? '!border-rowan' : ''}" list="{id}-names" value={text} oninput={(event) => onChange(event.currentTarget.value || undefined)} autocomplete="off" aria-describedby="{id}-about" aria-invalid={mistakes.length > 0} placeholder="{wordFor(sort)}, or an expression" />
    <datalist id="{id}-names">{#each names.value ?? [] as name (name)}<option value={name}></option>{/each}</datalist>
    {#if canMake(sort)}<button type="button" class="button shrink-0" aria-expanded={making} onclick={() => (making = !making)}>New …</button>{/if}
  </div>
  <div id="{id}-about" class="mt-1 text-sm">
    {#if about}<p class="text-soft">{about}</p>{/if}
    {#each mistakes as mistake (mistake.at + mistake.message)}<p class="text-rowan">{mistake.message}{mistake.hint ? ` ${mistake.hint}` : ''}</p>{/each}
    {#if unknown && mistakes.length === 0 && !text.includes('${')}<p class="text-ochre">There is no {wordFor(sort)} “{text}” yet.</p>{/if}
  </div>
  {#if making}<MakeHere {sort} onMade={(name) => { making = false; onChange(name); }} />{/if}
</div>
