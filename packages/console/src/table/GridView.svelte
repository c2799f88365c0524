<script lang="ts">
import { tick } from 'svelte';
import { plural } from '../state/format.js';
import { shortcuts } from '../state/shortcuts.svelte.js';
import CellEditor from './CellEditor.svelte';
import CellValue from './CellValue.svelte';
import { Cursor } from './cursor.svelte.js';
import type { Grid, Row, Sort } from './grid.svelte.js';
import HeadCell from './HeadCell.svelte';
import RowMenu from './RowMenu.svelte';

interface Props {
  grid: Grid;
  sort: Sort | null;
  /** A row to point at, by its id. */
  lit: number;
  onSort: (sort: Sort | null) => void;
  onHistory: (row: Row) => void;
}
/** A table as a grid: every row is there, those in sight are drawn; edited by keyboard as well as with a mouse. */
let { grid, sort, lit, onSort, onHistory }: Props = $props();
const HEIGHT = 32;
/** Browsers lay out no more than some 33 million pixels. */
const MOST = 1_000_000;
let scroller = $state<HTMLElement>();
let top = $state(0);
let room = $state(400);
const shown = $derived(Math.min(grid.count, MOST));
const first = $derived(Math.max(0, Math.floor(top / HEIGHT) - 5));
const last = $derived(Math.min(shown - 1, Math.ceil((top + room) / HEIGHT) + 5));
const visible = $derived(Array.from({ length: Math.max(0, last - first + 1) }, (_, index) => first + index));
const widths = $derived(`4.5rem repeat(${grid.columns.length}, minmax(9rem, 1fr)) 2.5rem`);
// svelte-ignore state_referenced_locally
const cursor = new Cursor(grid, () => void focus());

$effect(() => grid.look(first, last));
$effect(() =>
  shortcuts.use('The grid', [
    { key: 'arrowdown', does: 'move between cells; Page, Home and End too' },
    { key: 'enter', does: 'edit a cell; typing starts immediately, Escape cancels' },
    { key: 'delete', does: 'clear a cell' },
    { key: 'ctrl+delete', does: 'remove the row' },
    { key: 'ctrl+h', does: 'show the history of the row', run: () => history() },
  ]),
);

function history() {
  const row = grid.row(cursor.row);
  if (row) onHistory(row);
}
async function focus() {
  const above = cursor.row * HEIGHT;
  if (scroller && above < scroller.scrollTop) scroller.scrollTop = above;
  else if (scroller && above + HEIGHT * 2 > scroller.scrollTop + room)
    scroller.scrollTop = above + HEIGHT * 2 - room;
  await tick();
  const cell = scroller?.querySelector<HTMLElement>(`[data-at="${cursor.row}/${cursor.column}"]`);
  (cell?.querySelector<HTMLElement>('input, textarea') ?? cell)?.focus({ preventScroll: true });
}
function pressed(event: KeyboardEvent) {
  if ((event.target as HTMLElement).closest('[data-menu]')) return;
  if (event.ctrlKey && event.key === 'h') return;
  if (!cursor.pressed(event, Math.floor(room / HEIGHT) - 2)) return;
  event.preventDefault();
  event.stopPropagation();
}
const isAt = (row: number, column: number) => cursor.row === row && cursor.column === column;
</script>

<p class="mb-1 text-sm text-soft" role="status">
  {plural(grid.count, 'row')}{grid.searched
    ? ` among the newest ${grid.searched.toLocaleString()}`
    : ''}{grid.count > MOST ? `; the first ${MOST.toLocaleString()} can be scrolled to` : ''}
</p>
<!-- svelte-ignore a11y_interactive_supports_focus (its cells have the focus) -->
<div
  bind:this={scroller}
  bind:clientHeight={room}
  class="grid-view"
  role="grid"
  aria-label="Rows of {grid.table}"
  aria-rowcount={grid.count + 1}
  aria-colcount={grid.columns.length + 1}
  onscroll={(event) => (top = event.currentTarget.scrollTop)}
  onkeydown={pressed}
>
  <div class="grid-head" role="row" aria-rowindex={1} style="grid-template-columns: {widths}">
    <div role="columnheader" class="grid-head-cell">id</div>
    {#each grid.columns as column (column.name)}
      <HeadCell table={grid.table} {column} {sort} {onSort} />
    {/each}
    <div role="columnheader" class="grid-head-cell"><span class="sr-only">Action</span></div>
  </div>
  <div role="presentation" class="relative" style="height: {shown * HEIGHT}px">
    {#each visible as index (index)}
      {@const row = grid.row(index)}
      <div
        role="row"
        aria-rowindex={index + 2}
        class="grid-row"
        class:grid-row-lit={row?.id === lit}
        style="top: {index * HEIGHT}px; grid-template-columns: {widths}"
      >
        {#each ['id', ...grid.columns.map((column) => column.name)] as name, at (name)}
          <!-- svelte-ignore a11y_click_events_have_key_events (the grid has the keys) -->
          <div
            role="gridcell"
            tabindex={isAt(index, at) ? 0 : -1}
            data-at="{index}/{at}"
            aria-colindex={at + 1}
            aria-readonly={at === 0}
            class="grid-cell"
            class:grid-cell-id={at === 0}
            onclick={() => (isAt(index, at) ? undefined : cursor.to(index, at))}
            ondblclick={() => cursor.begin()}
          >
            {#if isAt(index, at) && cursor.draft !== null}
              <CellEditor {cursor} />
            {:else if row}
              <CellValue value={row[name] ?? null} type={grid.columns[at - 1]?.type ?? 'whole'} />
            {/if}
          </div>
        {/each}
        <div role="gridcell" class="grid-cell" data-menu>
          {#if row}<RowMenu
              id={row.id}
              onHistory={() => onHistory(row)}
              onRemove={() => void grid.remove(index)}
            />{/if}
        </div>
      </div>
    {/each}
  </div>
</div>
