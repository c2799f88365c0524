<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import Trash from '@lucide/svelte/icons/trash-2';
import type { ColumnType } from '@pindro/contract/light';
import { COLUMN_TYPES } from './column-types.js';

/** Columns of a new table: a name and a type each. */
let { columns = $bindable() }: { columns: { name: string; type: ColumnType }[] } = $props();
const uid = $props.id();
</script>

<fieldset class="mb-3">
  <legend class="label">Columns</legend>
  {#each columns as column, index (index)}
    <div class="mb-1.5 flex gap-2">
      <input
        class="field py-1"
        aria-label="Name of column {index + 1}"
        placeholder="name"
        bind:value={column.name}
      />
      <select class="field w-40 shrink-0 py-1" aria-label="Type of column {index + 1}" bind:value={column.type}>
        {#each Object.entries(COLUMN_TYPES) as [type, says] (type)}<option value={type}>{says}</option>{/each}
      </select>
      <button
        type="button"
        class="icon-button"
        aria-label="Remove column {index + 1}"
        disabled={columns.length === 1}
        onclick={() => columns.splice(index, 1)}><Trash size={16} aria-hidden="true" /></button
      >
    </div>
  {/each}
  <button
    type="button"
    class="button button-small"
    id="{uid}-add"
    onclick={() => columns.push({ name: '', type: 'text' })}
    ><Plus size={15} aria-hidden="true" /> Add a column</button
  >
</fieldset>
