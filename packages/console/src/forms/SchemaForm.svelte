<script lang="ts">
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import { words } from '../state/format.js';

/** A form made from the properties of a JSON Schema. What is left empty is not sent. */
let { schema, value = $bindable() }: { schema: JsonSchema; value: JsonObject } = $props();

interface Property {
  type?: string;
  enum?: unknown[];
  format?: string;
  description?: string;
  default?: unknown;
  minimum?: number;
  maximum?: number;
  writeOnly?: boolean;
  maxLength?: number;
}
const uid = $props.id();
const properties = $derived(Object.entries((schema.properties ?? {}) as Record<string, Property>));
const required = $derived((schema.required ?? []) as string[]);

function put(name: string, inner: unknown) {
  const { [name]: _, ...rest } = value;
  value = inner === '' || inner === undefined ? rest : { ...rest, [name]: inner as never };
}
function number(text: string): number | string {
  return text === '' ? '' : Number(text);
}
/** Lists and objects are written as JSON; until it can be read it is sent as the text it is, and refused with a reason. */
function json(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}
</script>

{#if properties.length === 0}
  <p class="text-soft">It takes no input.</p>
{/if}
{#each properties as [name, property] (name)}
  {@const id = `${uid}-${name}`}
  {@const current = value[name]}
  <div class="mb-4">
    {#if property.type === 'boolean'}
      <label class="flex items-center gap-2 font-medium" for={id}>
        <input {id} type="checkbox" class="size-4 accent-[var(--spruce)]" checked={current === true} onchange={(event) => put(name, event.currentTarget.checked)} />
        {words(name)}
      </label>
    {:else}
      <label class="label" for={id}>{words(name)}{#if !required.includes(name)}{' '}<span class="font-normal text-soft">(if you like)</span>{/if}</label>
      {#if property.enum}
        <select {id} class="field" value={current ?? ''} onchange={(event) => put(name, property.enum?.find((one) => String(one) === event.currentTarget.value))} aria-describedby="{id}-about">
          <option value="">choose …</option>
          {#each property.enum as one (one)}<option value={String(one)}>{one}</option>{/each}
        </select>
      {:else if property.type === 'integer' || property.type === 'number'}
        <input {id} class="field" type="number" step={property.type === 'integer' ? 1 : 'any'} value={current ?? ''} oninput={(event) => put(name, number(event.currentTarget.value))} aria-describedby="{id}-about" />
      {:else if property.format === 'date'}
        <input {id} class="field" type="date" value={current ?? ''} oninput={(event) => put(name, event.currentTarget.value)} aria-describedby="{id}-about" />
      {:else if property.type === 'object' || property.type === 'array'}
        <textarea {id} class="field font-mono" rows="3" value={current === undefined ? '' : typeof current === 'string' ? current : JSON.stringify(current)} oninput={(event) => put(name, event.currentTarget.value === '' ? '' : json(event.currentTarget.value))} aria-describedby="{id}-about" placeholder="JSON"></textarea>
      {:else if property.writeOnly || property.format === 'password'}
        <input {id} class="field" type="password" autocomplete="off" value={current ?? ''} oninput={(event) => put(name, event.currentTarget.value)} aria-describedby="{id}-about" />
      {:else if (property.maxLength ?? 0) > 200}
        <textarea {id} class="field" rows="3" value={String(current ?? '')} oninput={(event) => put(name, event.currentTarget.value)} aria-describedby="{id}-about"></textarea>
      {:else}
        <input {id} class="field" value={current ?? ''} oninput={(event) => put(name, event.currentTarget.value)} aria-describedby="{id}-about" />
      {/if}
    {/if}
    {#if property.description}<p id="{id}-about" class="mt-1 text-sm text-soft">{property.description}</p>{/if}
  </div>
{/each}
