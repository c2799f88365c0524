<script lang="ts">
import type { TableSummary } from '@pindro/contract/light';
import { COLUMN_TYPES } from '../make/column-types.js';
import Problem from '../parts/text/Problem.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { notices } from '../state/notices.svelte.js';
import { Action } from '../state/resource.svelte.js';

interface Props {
  table: string;
  /** The column that is changed; a new one where there is none. */
  column?: TableSummary['columns'][number];
  open: boolean;
}
/** A column: its name, its type, and whether it goes. */
let { table, column, open = $bindable() }: Props = $props();
const uid = $props.id();
// svelte-ignore state_referenced_locally
let name = $state(column?.name ?? '');
// svelte-ignore state_referenced_locally
let type = $state(column?.type ?? 'text');
let dropping = $state(false);

const save = new Action(async () => {
  const body = column
    ? {
        ...(name !== column.name && { rename: { [column.name]: name } }),
        ...(type !== column.type && { types: { [name]: type } }),
      }
    : { add: { [name]: type } };
  const { changed } = await api.updateTable({ name: table, body });
  if (changed.length > 0) notices.tell(`${changed.join(', ')} updated to the new name.`);
  open = false;
});
const drop = new Action(async () => {
  await api.updateTable({ name: table, body: { drop: [column!.name] } });
  notices.tell(`Removed column ${column!.name}.`);
  open = false;
});
</script>

<Window bind:open title={column ? `Column ${column.name}` : 'New column'}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void save.run();
    }}
  >
    <label class="label" for="{uid}-name">Name</label>
    <input id="{uid}-name" class="field mb-3" bind:value={name} required />
    {#if column && name !== column.name}
      <p class="hint mb-3">Flows that use it are updated.</p>
    {/if}
    <label class="label" for="{uid}-type">Type</label>
    <select id="{uid}-type" class="field mb-3" bind:value={type}>
      {#each Object.entries(COLUMN_TYPES) as [one, says] (one)}<option value={one}>{says}</option>{/each}
    </select>
    {#if column && type !== column.type}<p class="hint mb-3">Requires that every row fits it.</p>{/if}
    {#if save.problem}<div class="mb-3"><Problem problem={save.problem} /></div>{/if}
    {#if drop.problem}<div class="mb-3"><Problem problem={drop.problem} /></div>{/if}
    <div class="flex flex-wrap gap-2">
      <button class="button button-main" disabled={save.busy || name.trim() === ''}>
        {column ? 'Save' : 'Add column'}
      </button>
      {#if column && !dropping}
        <button type="button" class="button" onclick={() => (dropping = true)}>Remove</button>
      {/if}
    </div>
    {#if dropping}
      <div class="mt-4 rounded-md bg-rowan-wash p-3">
        <p class="mb-2 text-rowan">This deletes its values permanently.</p>
        <button type="button" class="button button-danger" onclick={() => void drop.run()}
          >Remove {column!.name}</button
        >
        <button type="button" class="button" onclick={() => (dropping = false)}>Keep</button>
      </div>
    {/if}
  </form>
</Window>
