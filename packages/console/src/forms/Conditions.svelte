<script lang="ts">
import { kept } from './blank.js';
import Plus from '@lucide/svelte/icons/plus';
import Trash from '@lucide/svelte/icons/trash-2';
import type { JsonObject } from '@pindro/core/browser';
import { columnSchema } from './columns.js';
import { COMPARISONS, type Comparison, type Condition, readCondition, withCondition } from './conditions.js';
import Field from './Field.svelte';
import { columnsAt } from './known.svelte.js';
import type { FieldPlace } from './place.js';

interface Props {
  id: string;
  label: string;
  value: JsonObject;
  path: PropertyKey[];
  place: FieldPlace;
  onChange: (value: JsonObject) => void;
}
/** Conditions that hold together: a column, a comparison, a value. */
let { id, label, value, path, place, onChange }: Props = $props();
const columns = $derived([{ name: 'id', type: 'whole' as const }, ...columnsAt(place, path)]);
const conditions = $derived(Object.entries(value).map(([column, written]) => readCondition(column, written)));
const free = $derived(columns.map((one) => one.name).filter((name) => !(name in value)));

const schemaOf = ({ column, comparison }: Condition) => {
  const type = columns.find((one) => one.name === column)?.type;
  const one = comparison === 'contains' || !type ? {} : columnSchema(type);
  return comparison === 'in'
    ? { type: 'array', items: one }
    : one.type
      ? one
      : { type: ['string', 'number', 'boolean'] };
};
const put = (old: Condition, next: Partial<Condition>) =>
  onChange(withCondition(value, old.column, { ...old, ...next }));
function remove(column: string) {
  const { [column]: _, ...rest } = value;
  onChange(rest);
}
const add = () => onChange({ ...value, [free.find((name) => name !== 'id') ?? free[0] ?? 'column']: '' });
</script>

{#each conditions as one, index (index)}
  <div class="condition">
    <span class="condition-word">{index === 0 ? '' : 'and'}</span>
    <input
      class="field py-1 font-mono"
      aria-label="Column of {label} {index + 1}"
      list="{id}-columns"
      value={one.column}
      onchange={(event) => put(one, { column: event.currentTarget.value })}
    />
    <select
      class="field py-1"
      aria-label="Comparison of {label} {index + 1}"
      value={one.comparison}
      onchange={(event) => put(one, { comparison: event.currentTarget.value as Comparison })}
    >
      {#each COMPARISONS as { word, says } (word)}<option value={word}>{says}</option>{/each}
    </select>
    <button
      type="button"
      class="field-tool"
      aria-label="Remove {label} {index + 1}"
      onclick={() => remove(one.column)}
    >
      <Trash size={15} aria-hidden="true" />
    </button>
    <div class="condition-value">
      <Field
        id="{id}-{index}"
        label="Value for {one.column}"
        schema={schemaOf(one)}
        value={one.value}
        path={[...path, one.column, ...(one.comparison === 'is' ? [] : [one.comparison])]}
        {place}
        required
        plain={false}
        onChange={(next) => put(one, { value: kept(next) })}
      />
    </div>
  </div>
{/each}
<datalist id="{id}-columns">
  {#each columns as column (column.name)}<option value={column.name}></option>{/each}
</datalist>
<button type="button" class="button button-small" onclick={add} disabled={free.length === 0 && columns.length > 1}>
  <Plus size={15} aria-hidden="true" /> Add a condition <span class="sr-only">to {label}</span>
</button>
