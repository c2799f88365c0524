<script lang="ts">
import Columns from '@lucide/svelte/icons/columns-3';
import Plus from '@lucide/svelte/icons/plus';
import { isObject, type JsonObject } from '@pindro/core/browser';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import Problem from '../parts/text/Problem.svelte';
import ThingHead from '../parts/resource/ThingHead.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import { shortcuts } from '../state/shortcuts.svelte.js';
import ColumnWindow from '../table/ColumnWindow.svelte';
import CsvTools from '../table/CsvTools.svelte';
import FilterBar from '../table/FilterBar.svelte';
import { Grid, type Row, type Sort } from '../table/grid.svelte.js';
import GridView from '../table/GridView.svelte';
import HistoryWindow from '../table/HistoryWindow.svelte';
import NewRowWindow from '../table/NewRowWindow.svelte';

let { name }: { name: string } = $props();

const table = new Resource(() => api.getTable({ name }), ['table', 'columns']);
const lit = $derived(Number(router.query.get('row')));
const search = $derived(router.query.get('find') ?? '');
const where = $derived(readWhere(router.query.get('where')));
const sort = $derived<Sort | null>(
  router.query.get('sort')
    ? { column: router.query.get('sort')!, descending: router.query.get('descending') === 'yes' }
    : null,
);
// svelte-ignore state_referenced_locally
const grid = new Grid(name, () => ({ search, where, sort }));
let adding = $state(false);
let widening = $state(false);
let shown = $state.raw<Row | null>(null);
const filtered = $derived(search !== '' || Object.keys(where).length > 0);

function readWhere(text: string | null): JsonObject {
  try {
    const read = JSON.parse(text ?? '{}');
    return isObject(read) ? read : {};
  } catch {
    return {};
  }
}
const keep = (change: Record<string, string>) => router.filter({ ...Object.fromEntries(router.query), ...change });
const order = (next: Sort | null) => keep({ sort: next?.column ?? '', descending: next?.descending ? 'yes' : '' });
// A link from a run points at one row.
$effect(() => {
  if (!lit) return;
  void api.getRow({ name, row: String(lit) }).then(
    ({ row }) => (shown = row as Row),
    () => {},
  );
});
$effect(() => shortcuts.use('Table', [{ key: 'n', does: 'add a row', run: () => (adding = true) }]));
</script>

<Loaded from={table} page={name}>
  {#snippet children(now)}
    <ThingHead sort="table" name={now.name} title={now.name} back={{ to: '/tables', label: 'Tables' }}>
      {#snippet actions()}
        <CsvTools table={now} />
        <button type="button" class="button" onclick={() => (widening = true)}>
          <Columns size={16} aria-hidden="true" /> Add column
        </button>
        <button type="button" class="button button-main" onclick={() => (adding = true)}>
          <Plus size={16} aria-hidden="true" /> Add row
        </button>
      {/snippet}
    </ThingHead>
    <FilterBar
      table={now}
      {search}
      {where}
      onSearch={(find) => keep({ find })}
      onWhere={(next) => keep({ where: Object.keys(next).length > 0 ? JSON.stringify(next) : '' })}
    />
    {#if grid.problem}<div class="mb-3"><Problem problem={grid.problem} /></div>{/if}
    {#if grid.loaded && grid.count === 0}
      {#if filtered}
        <Empty title="No matching rows">Remove a condition to see more.</Empty>
      {:else}
        <Empty title="No rows yet">Add rows manually, from a CSV file, or with a table step in a flow.</Empty>
      {/if}
    {:else}
      <GridView {grid} {sort} {lit} onSort={order} onHistory={(row) => (shown = row)} />
    {/if}
    {#if adding}<NewRowWindow table={now.name} columns={now.columns} bind:open={adding} />{/if}
    {#if widening}<ColumnWindow table={now.name} bind:open={widening} />{/if}
  {/snippet}
</Loaded>
{#if shown}
  {#key shown.id}<HistoryWindow table={name} row={shown} bind:open={() => true, () => (shown = null)} />{/key}
{/if}
