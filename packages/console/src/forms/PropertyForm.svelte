<script lang="ts">
import Trash from '@lucide/svelte/icons/trash-2';
import { isObject, type JsonSchema } from '@pindro/core/browser';
import PropertiesForm from './PropertiesForm.svelte';
import { changed, FORMATS, TYPES } from './properties.js';

interface Props {
  id: string;
  name: string;
  what: string;
  schema: JsonSchema;
  required: boolean;
  depth: number;
  onRename: (wanted: string) => void;
  onRemove: () => void;
  onChange: (schema: JsonSchema, required: boolean) => void;
}
/** One property: its name, what it is, what it takes. */
let { id, name, what, schema, required, depth, onRename, onRemove, onChange }: Props = $props();
const type = $derived(String(schema.type ?? 'string'));
const items = $derived(isObject(schema.items) ? (schema.items as JsonSchema) : {});
const put = (change: Parameters<typeof changed>[1], needed = required) => onChange(changed(schema, change), needed);
const list = (text: string) => {
  const values = text.split(',').flatMap((one) => one.trim() || []);
  return values.length > 0 ? values : undefined;
};
const number = (text: string) => (text === '' ? undefined : Number(text));
</script>

{#snippet bound(key: 'minimum' | 'maximum', label: string)}
  <div>
    <label class="label text-sm" for="{id}-{key}">{label} <span class="sr-only">of {what} {name}</span></label>
    <input
      id="{id}-{key}"
      class="field py-1"
      type="number"
      step="any"
      value={schema[key] ?? ''}
      onchange={(event) => put({ [key]: number(event.currentTarget.value) })}
    />
  </div>
{/snippet}

<li class="rounded-md border border-line p-3">
  <div class="grid grid-cols-[1fr_auto] gap-2">
    <div>
      <label class="label text-sm" for="{id}-name">Name <span class="sr-only">of {what} {name}</span></label>
      <input
        id="{id}-name"
        class="field py-1 font-mono"
        value={name}
        onchange={(event) => onRename(event.currentTarget.value)}
      />
    </div>
    <button type="button" class="field-tool self-end" aria-label="Remove {what} {name}" onclick={onRemove}>
      <Trash size={16} aria-hidden="true" />
    </button>
  </div>
  <label class="label mt-2 text-sm" for="{id}-about"
    >Description <span class="sr-only">of {what} {name}</span></label
  >
  <input
    id="{id}-about"
    class="field py-1"
    value={String(schema.description ?? '')}
    oninput={(event) => put({ description: event.currentTarget.value })}
  />
  <div class="mt-2 grid grid-cols-2 gap-2">
    <div>
      <label class="label text-sm" for="{id}-type">Type <span class="sr-only">of {what} {name}</span></label>
      <select
        id="{id}-type"
        class="field py-1"
        value={type}
        onchange={(event) =>
          onChange(
            changed({ description: schema.description ?? '' }, { type: event.currentTarget.value }),
            required,
          )}
      >
        {#each TYPES as one (one)}<option value={one}>{one}</option>{/each}
      </select>
    </div>
    {#if type === 'string'}
      <div>
        <label class="label text-sm" for="{id}-format">Format <span class="sr-only">of {what} {name}</span></label>
        <select
          id="{id}-format"
          class="field py-1"
          value={String(schema.format ?? '')}
          onchange={(event) => put({ format: event.currentTarget.value })}
        >
          {#each FORMATS as one (one)}<option value={one}>{one || 'any string'}</option>{/each}
        </select>
      </div>
    {:else if type === 'array'}
      <div>
        <label class="label text-sm" for="{id}-items">Items <span class="sr-only">of {what} {name}</span></label>
        <select
          id="{id}-items"
          class="field py-1"
          value={String(items.type ?? 'string')}
          onchange={(event) => put({ items: { type: event.currentTarget.value } })}
        >
          {#each TYPES as one (one)}<option value={one}>{one}</option>{/each}
        </select>
      </div>
    {:else if type === 'integer' || type === 'number'}
      {@render bound('minimum', 'At least')}
      {@render bound('maximum', 'At most')}
    {/if}
  </div>
  {#if type === 'string' && !schema.format}
    <label class="label mt-2 text-sm" for="{id}-enum"
      >Allowed values, separated by commas<span class="sr-only">, of {what} {name}</span></label
    >
    <input
      id="{id}-enum"
      class="field py-1"
      value={Array.isArray(schema.enum) ? schema.enum.join(', ') : ''}
      onchange={(event) => put({ enum: list(event.currentTarget.value) })}
    />
  {/if}
  {#if type === 'object' && depth < 4}
    <div class="mt-2 border-l-2 border-line pl-3">
      <PropertiesForm {id} what="field" {schema} depth={depth + 1} onChange={(next) => onChange(next, required)} />
    </div>
  {/if}
  {#if type === 'array' && items.type === 'object' && depth < 4}
    <div class="mt-2 border-l-2 border-line pl-3">
      <PropertiesForm
        id="{id}-of"
        what="field of each"
        schema={items}
        depth={depth + 1}
        onChange={(next) => put({ items: next })}
      />
    </div>
  {/if}
  <label class="mt-2 flex items-center gap-1.5 text-sm">
    <input
      type="checkbox"
      class="tick"
      checked={required}
      onchange={(event) => put({}, event.currentTarget.checked)}
    />Required<span class="sr-only">: {what} {name}</span>
  </label>
</li>
