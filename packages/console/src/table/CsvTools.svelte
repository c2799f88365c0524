<script lang="ts">
import Download from '@lucide/svelte/icons/download';
import Upload from '@lucide/svelte/icons/upload';
import type { TableSummary } from '@pindro/contract/light';
import { saveFile } from '../state/files.js';
import { plural } from '../state/format.js';
import { Action } from '../state/resource.svelte.js';

/** Exports a table as CSV, and imports rows from CSV: the whole file is checked before the first row is added. */
let { table }: { table: TableSummary } = $props();
let said = $state('');
/** The column by which existing rows are updated; empty: every row of the file is added. */
let key = $state('');
let faults = $state.raw<string[]>([]);
const csv = () => import('./csv.js');

const take = new Action(async (file: File) => {
  said = 'Reading …';
  const { readCsv, addRows } = await csv();
  const read = readCsv(await file.text(), table.columns, key || undefined);
  faults = read.faults;
  if (faults.length > 0)
    return void (said = `No row was imported: the file has ${plural(faults.length, 'problem')}.`);
  const { added, changed } = await addRows(
    table.name,
    read.rows,
    (count) => (said = `${count} of ${plural(read.rows.length, 'row')} imported …`),
    key || undefined,
  );
  said = key ? `${plural(added, 'row')} added, ${changed} updated.` : `${plural(added, 'row')} added.`;
});
const give = new Action(async () => {
  const { writeCsv } = await csv();
  const text = await writeCsv(table, (count) => (said = `${plural(count, 'row')} written …`));
  saveFile(`${table.name}.csv`, text, 'text/csv');
  said = '';
});
</script>

<label class="flex items-center gap-1 text-sm text-soft">
  Update by
  <select class="input" bind:value={key}>
    <option value="">no column, add all</option>
    {#each ['id', ...table.columns.map((column) => column.name)] as name (name)}<option>{name}</option>{/each}
  </select>
</label>
<label class="button cursor-pointer focus-within:outline-2">
  <Upload size={16} aria-hidden="true" /> Import CSV
  <input
    class="sr-only"
    type="file"
    accept=".csv,text/csv"
    aria-label="CSV file to import into {table.name}"
    disabled={take.busy}
    onchange={(event) => {
      const file = event.currentTarget.files?.[0];
      event.currentTarget.value = '';
      if (file) void take.run(file);
    }}
  />
</label>
<button type="button" class="button" disabled={give.busy} onclick={() => void give.run()}>
  <Download size={16} aria-hidden="true" /> Export CSV
</button>
{#if said || take.problem || give.problem}
  <div class="w-full text-sm" role="status">
    <p class={faults.length > 0 || take.problem ? 'text-rowan' : 'text-soft'}>
      {(take.problem ?? give.problem)?.detail ?? said}
    </p>
    {#if faults.length > 0}
      <ul class="list-disc pl-5 text-rowan">
        {#each faults.slice(0, 8) as one (one)}<li>{one}</li>{/each}
      </ul>
    {/if}
  </div>
{/if}
