<script lang="ts">
import Download from '@lucide/svelte/icons/download';
import Upload from '@lucide/svelte/icons/upload';
import type { TableSummary } from '@pindro/contract/light';
import { saveFile } from '../state/files.js';
import { plural } from '../state/format.js';
import { Action } from '../state/resource.svelte.js';

/** A table out as CSV, and rows in from it: looked at whole before the first is added. */
let { table }: { table: TableSummary } = $props();
let said = $state('');
let faults = $state.raw<string[]>([]);
const csv = () => import('./csv.js');

const take = new Action(async (file: File) => {
  said = 'Reading …';
  const { readCsv, addRows } = await csv();
  const read = readCsv(await file.text(), table.columns);
  faults = read.faults;
  if (faults.length > 0)
    return void (said = `No row was added: ${plural(faults.length, 'cell does', 'cells do')} not fit.`);
  await addRows(
    table.name,
    read.rows,
    (count) => (said = `${count} of ${plural(read.rows.length, 'row')} added …`),
  );
  said = `${plural(read.rows.length, 'row')} added.`;
});
const give = new Action(async () => {
  const { writeCsv } = await csv();
  const text = await writeCsv(table, (count) => (said = `${plural(count, 'row')} written …`));
  saveFile(`${table.name}.csv`, text, 'text/csv');
  said = '';
});
</script>

<label class="button cursor-pointer focus-within:outline-2">
  <Upload size={16} aria-hidden="true" /> CSV in
  <input
    class="sr-only"
    type="file"
    accept=".csv,text/csv"
    aria-label="Rows from a CSV file"
    disabled={take.busy}
    onchange={(event) => {
      const file = event.currentTarget.files?.[0];
      event.currentTarget.value = '';
      if (file) void take.run(file);
    }}
  />
</label>
<button type="button" class="button" disabled={give.busy} onclick={() => void give.run()}>
  <Download size={16} aria-hidden="true" /> CSV out
</button>
{#if said || take.problem || give.problem}
  <div class="w-full text-sm" role="status">
    <p class={faults.length > 0 || take.problem ? 'text-rowan' : 'text-soft'}>
      {(take.problem ?? give.problem)?.title ?? said}
    </p>
    {#if faults.length > 0}
      <ul class="list-disc pl-5 text-rowan">
        {#each faults.slice(0, 8) as one (one)}<li>{one}</li>{/each}
      </ul>
    {/if}
  </div>
{/if}
