<script lang="ts">
import ListFilter from '@lucide/svelte/icons/list-filter';
import type { TableSummary } from '@pindro/contract/light';
import type { JsonObject } from '@pindro/core/browser';
import Conditions from '../forms/Conditions.svelte';
import { plainPlace } from '../forms/place.js';
import { plural } from '../state/format.js';
import OwnerChoice from './OwnerChoice.svelte';

interface Props {
  table: TableSummary;
  search: string;
  where: JsonObject;
  onSearch: (words: string) => void;
  onWhere: (where: JsonObject) => void;
}
/** Which rows are shown: those with some words in them, and those that fit conditions. */
let { table, search, where, onSearch, onWhere }: Props = $props();
const uid = $props.id();
// svelte-ignore state_referenced_locally
let open = $state(Object.keys(where).length > 0);
const count = $derived(Object.keys(where).length);
const place = $derived(plainPlace({ table: table.name }));
</script>

<div class="mb-3 flex flex-wrap items-center gap-2">
  <label class="sr-only" for="{uid}-find">Search rows</label>
  <input
    id="{uid}-find"
    class="field max-w-72 py-1"
    type="search"
    placeholder="Search rows"
    value={search}
    oninput={(event) => onSearch(event.currentTarget.value)}
  />
  <button type="button" class="button button-small" aria-expanded={open} onclick={() => (open = !open)}>
    <ListFilter size={15} aria-hidden="true" />
    {count > 0 ? plural(count, 'condition') : 'Conditions'}
  </button>
  <OwnerChoice {table} />
</div>
{#if open}
  <div class="panel mb-3">
    <Conditions id={uid} label="Rows" value={where} path={[]} {place} onChange={onWhere} />
  </div>
{/if}
