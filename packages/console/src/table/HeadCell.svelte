<script lang="ts">
import ArrowDown from '@lucide/svelte/icons/arrow-down';
import ArrowUp from '@lucide/svelte/icons/arrow-up';
import ChevronDown from '@lucide/svelte/icons/chevron-down';
import type { TableSummary } from '@pindro/contract/light';
import { DropdownMenu } from 'bits-ui';
import { COLUMN_TYPES } from '../make/column-types.js';
import ColumnWindow from './ColumnWindow.svelte';
import type { Sort } from './grid.svelte.js';

interface Props {
  table: string;
  column: TableSummary['columns'][number];
  sort: Sort | null;
  onSort: (sort: Sort | null) => void;
}
/** The head of a column: sorts by it, and leads to changing it. */
let { table, column, sort, onSort }: Props = $props();
let changing = $state(false);
const mine = $derived(sort?.column === column.name ? sort : null);
const order = $derived(!mine ? 'none' : mine.descending ? 'descending' : 'ascending');
</script>

<div role="columnheader" aria-sort={order} class="grid-head-cell">
  <DropdownMenu.Root>
    <DropdownMenu.Trigger class="grid-head-button" aria-label="Column {column.name}, {COLUMN_TYPES[column.type]}">
      <span class="truncate">{column.name}</span>
      <span class="text-xs font-normal">{COLUMN_TYPES[column.type]}</span>
      {#if mine?.descending}<ArrowDown size={13} aria-hidden="true" />
      {:else if mine}<ArrowUp size={13} aria-hidden="true" />
      {:else}<ChevronDown size={13} class="opacity-50" aria-hidden="true" />{/if}
    </DropdownMenu.Trigger>
    <DropdownMenu.Portal>
      <DropdownMenu.Content class="menu" align="start" sideOffset={2}>
        <DropdownMenu.Item class="menu-item" onSelect={() => onSort({ column: column.name, descending: false })}>
          <ArrowUp size={15} aria-hidden="true" /> Sort ascending
        </DropdownMenu.Item>
        <DropdownMenu.Item class="menu-item" onSelect={() => onSort({ column: column.name, descending: true })}>
          <ArrowDown size={15} aria-hidden="true" /> Sort descending
        </DropdownMenu.Item>
        {#if mine}
          <DropdownMenu.Item class="menu-item" onSelect={() => onSort(null)}>Newest first</DropdownMenu.Item>
        {/if}
        <DropdownMenu.Item class="menu-item" onSelect={() => (changing = true)}
          >Rename, change, remove …</DropdownMenu.Item
        >
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  </DropdownMenu.Root>
</div>
{#if changing}<ColumnWindow {table} {column} bind:open={changing} />{/if}
