<script lang="ts">
import { isObject, type Json, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import { words } from '../state/format.js';
import ExprField from './ExprField.svelte';
import PairsField from './PairsField.svelte';
import type { FieldPlace } from './place.js';
import ReferenceField from './ReferenceField.svelte';
import { isReference } from './references.js';
import { fieldsOf, sortOf } from './schema.js';
import YamlField from './YamlField.svelte';

interface Props {
  schema: JsonSchema;
  value: JsonObject;
  path: string[];
  place: FieldPlace;
  plain: string[];
  onChange: (name: string, value: Json | undefined) => void;
}
/** The form of a step, made from what its kind takes. */
let { schema, value, path, place, plain, onChange }: Props = $props();
const uid = $props.id();
const fields = $derived(fieldsOf(schema, value));
const first = $derived(fields.filter((field) => field.required || value[field.name] !== undefined || field.common));
const rest = $derived(fields.filter((field) => !first.includes(field)));
</script>

{#snippet one(field: (typeof fields)[number])}
  {@const id = `${uid}-${field.name}`}
  {@const label = words(field.name)}
  {@const current = value[field.name]}
  {@const sort = sortOf(field.schema)}
  {@const at = [...path, field.name]}
  {@const change = (next: Json | undefined) => onChange(field.name, next)}
  {#if isReference(field.name)}
    <ReferenceField {id} {label} sort={field.name} value={current} required={field.required} about={String(field.schema.description ?? '')} mistakes={place.editor.mistakesAt(at)} onChange={change} />
  {:else if sort === 'choice'}
    <div class="mb-4">
      <label class="label" for={id}>{label}</label>
      <select {id} class="field" value={String(current ?? field.schema.default ?? '')} onchange={(event) => change(event.currentTarget.value || undefined)} aria-describedby="{id}-about">
        {#if !field.required && field.schema.default === undefined}<option value=""></option>{/if}
        {#each (field.schema.enum ?? []) as Json[] as option (option)}<option value={String(option)}>{words(String(option))}</option>{/each}
      </select>
      <p id="{id}-about" class="mt-1 text-sm text-soft">{field.schema.description ?? ''}</p>
    </div>
  {:else if sort === 'yes-no'}
    <div class="mb-4"><label class="flex items-center gap-2 font-medium" for={id}><input {id} type="checkbox" class="size-4 accent-[var(--spruce)]" checked={(current ?? field.schema.default) === true} onchange={(event) => change(event.currentTarget.checked)} />{label}</label>{#if field.schema.description}<p class="mt-1 text-sm text-soft">{field.schema.description}</p>{/if}</div>
  {:else if sort === 'pairs'}
    <PairsField {id} {label} about={String(field.schema.description ?? '')} value={isObject(current) ? current : {}} path={at} {place} onChange={change} />
  {:else if sort === 'text' || sort === 'number'}
    <ExprField {id} {label} about={String(field.schema.description ?? '')} value={current} path={at} {place} required={field.required} plain={plain.includes(field.name)} mono={plain.includes(field.name)} read={sort === 'number' ? (text) => (Number.isFinite(Number(text)) ? Number(text) : text) : undefined} onChange={change} />
  {:else}
    <YamlField {id} {label} about={String(field.schema.description ?? '')} value={current} path={at} {place} required={field.required} plain={plain.includes(field.name)} onChange={change} />
  {/if}
{/snippet}

{#each first as field (field.name)}{@render one(field)}{/each}
{#if rest.length > 0}
  <details class="mb-4">
    <summary class="cursor-pointer font-medium text-soft">More: {rest.map((field) => words(field.name)).join(', ')}</summary>
    <div class="mt-3">{#each rest as field (field.name)}{@render one(field)}{/each}</div>
  </details>
{/if}
