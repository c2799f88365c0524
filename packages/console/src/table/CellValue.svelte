<script lang="ts">
import { type CellType, cellText, type Json } from '@pindro/core/browser';
import { dayOf } from '../state/format.js';

/** A value in a grid cell, in one line. */
let { value, type }: { value: Json; type: CellType } = $props();
</script>

{#if value === null}
  <span class="text-soft/60" aria-label="nothing">–</span>
{:else if type === 'boolean'}
  {value ? 'yes' : 'no'}
{:else if type === 'date'}
  <time datetime={String(value)} title={String(value)}>{dayOf(new Date(`${value}T00:00:00`))}</time>
{:else if type === 'number' || type === 'whole'}
  <span class="tabular-nums">{value}</span>
{:else}
  {cellText(value).slice(0, 200)}
{/if}
