<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import { BaseEdge, EdgeLabel, type EdgeProps, getSmoothStepPath } from '@xyflow/svelte';
import { getContext } from 'svelte';

/** A link with the name of its branch, and a button that puts a step in between. */
let {
  id,
  sourceX,
  sourceY,
  targetX,
  targetY,
  sourcePosition,
  targetPosition,
  markerEnd,
  style,
  data,
  selected,
}: EdgeProps = $props();
const drawn = $derived(
  getSmoothStepPath({ sourceX, sourceY, targetX, targetY, sourcePosition, targetPosition, borderRadius: 10 }),
);
const branch = $derived((data?.branch as string | null) ?? null);
/** From very far away a link is only its line; a comparison of revisions has no distance. */
const tiny = getContext<(() => boolean) | undefined>('tiny');
const add = $derived(data?.add as () => void);
</script>

<BaseEdge {id} path={drawn[0]} {markerEnd} style="{style ?? ''};{selected ? 'stroke:var(--glacier);stroke-width:3' : ''}" />
{#if !tiny?.()}
<EdgeLabel x={drawn[1]} y={drawn[2]} transparent>
  <span class="nodrag nopan flex items-center gap-1">
    {#if branch}<span class="rounded bg-paper px-1.5 py-0.5 text-[0.85rem] text-ink">{branch.replaceAll('_', ' ')}</span>{/if}
    <button type="button" class="grid size-6 place-items-center rounded-full border border-line bg-card text-soft hover:border-spruce hover:text-spruce" aria-label="Add a step between {data?.from} and {data?.to}" onclick={add}><Plus size={14} aria-hidden="true" /></button>
  </span>
</EdgeLabel>
{/if}
