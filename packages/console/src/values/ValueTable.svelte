<script lang="ts">
import ArrowDown from '@lucide/svelte/icons/arrow-down';
import ArrowUp from '@lucide/svelte/icons/arrow-up';
import { getContext } from 'svelte';
import { words } from '../state/format.js';
import Value from './Value.svelte';
import { WITHIN } from './within.js';

/** A list of things as a table: sorted by a column, a long one in pages. */
let { columns, rows, name }: { columns: string[]; rows: Record<string, unknown>[]; name: string } = $props();
const PAGE = 25;
const within = getContext<() => string>(WITHIN);
const label = $derived(
  within && within() !== name && within() !== 'value' ? `${words(name)} in ${words(within())}` : words(name),
);
let by = $state<string | null>(null);
let down = $state(false);
let page = $state(0);
const sorted = $derived.by(() => {
  const column = by;
  if (column === null) return rows;
  const up = [...rows].sort((a, b) => compare(a[column], b[column]));
  return down ? up.reverse() : up;
});
const pages = $derived(Math.ceil(rows.length / PAGE));

function compare(a: unknown, b: unknown): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  return String(a ?? '').localeCompare(String(b ?? ''), undefined, { numeric: true });
}
function sort(column: string) {
  if (by === column && down) by = null;
  else {
    down = by === column;
    by = column;
  }
  page = 0;
}
const order = (column: string) => (by !== column ? 'none' : down ? 'descending' : 'ascending');
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="value-table" role="region" aria-label={label} tabindex="0">
  <table>
    <thead>
      <tr>
        {#each columns as column (column)}
          <th scope="col" aria-sort={order(column)}>
            <button type="button" class="value-sort" onclick={() => sort(column)}>
              {words(column)}
              {#if by === column}
                {#if down}<ArrowDown size={13} aria-hidden="true" />{:else}<ArrowUp
                    size={13}
                    aria-hidden="true"
                  />{/if}
              {/if}
            </button>
          </th>
        {/each}
      </tr>
    </thead>
    <tbody>
      {#each sorted.slice(page * PAGE, (page + 1) * PAGE) as row, index (index)}
        <tr>
          {#each columns as column (column)}
            <td
              >{#if column in row}<Value value={row[column]} name={column} json={false} />{/if}</td
            >
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>
{#if pages > 1}
  <p class="mt-1 flex items-center gap-2 text-sm text-soft">
    <button type="button" class="link" disabled={page === 0} onclick={() => page--}>Before</button>
    {page * PAGE + 1} to {Math.min(rows.length, (page + 1) * PAGE)} of {rows.length.toLocaleString()}
    <button type="button" class="link" disabled={page + 1 >= pages} onclick={() => page++}>After</button>
  </p>
{/if}
