<script lang="ts">
import type { TableSummary } from '@pindro/contract/light';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

/** Whether callers are kept apart in a table, and by which column. */
let { table }: { table: TableSummary } = $props();
const uid = $props.id();
const texts = $derived(table.columns.filter(({ type, name }) => type === 'text' || name === table.owner));
const keep = new Action((owner: string) => api.updateTable({ name: table.name, body: { owner: owner || null } }));
</script>

{#if texts.length > 0}
  <div class="ml-auto flex items-center gap-2 text-sm">
    <label class="text-soft" for="{uid}-owner">Callers of a tool can access</label>
    <select
      id="{uid}-owner"
      class="field w-auto py-1"
      value={table.owner ?? ''}
      disabled={keep.busy}
      onchange={(event) => void keep.run(event.currentTarget.value)}
    >
      <option value="">every row</option>
      {#each texts as { name } (name)}<option value={name}>rows with their name in {name}</option>{/each}
    </select>
  </div>
  {#if keep.problem}<p class="fault w-full">{keep.problem.detail}</p>{/if}
{/if}
