<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import { BaseEdge, EdgeLabel, type EdgeProps, getSmoothStepPath } from '@xyflow/svelte';
import { getContext } from 'svelte';
import type { Distance } from './groups.js';

/** A link with the name of its branch, and a button that puts a step in between. */
let { id, markerEnd, style, data, selected, ...ends }: EdgeProps = $props();
const drawn = $derived(getSmoothStepPath({ ...ends, borderRadius: 10 }));
const branch = $derived((data?.branch as string | null) ?? null);
/** From far away a link is only its line; a comparison of revisions has no distance. */
const distance = getContext<(() => Distance) | undefined>('distance');
const add = $derived(data?.add as () => void);
const chosen = $derived(selected ? 'stroke:var(--glacier);stroke-width:3' : '');
</script>

<BaseEdge {id} path={drawn[0]} {markerEnd} style="{style ?? ''};{chosen}" />
{#if (distance?.() ?? 'near') === 'near'}
  <EdgeLabel x={drawn[1]} y={drawn[2]} transparent>
    <span class="nodrag nopan flex items-center gap-1">
      {#if branch}<span class="branch-name">{branch.replaceAll('_', ' ')}</span>{/if}
      {#if add}
        <button
          type="button"
          class="edge-add"
          aria-label="Add a step between {data?.from} and {data?.to}"
          onclick={add}><Plus size={14} aria-hidden="true" /></button
        >
      {/if}
    </span>
  </EdgeLabel>
{/if}
