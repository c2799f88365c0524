<script lang="ts">
import ChevronDown from '@lucide/svelte/icons/chevron-down';
import ChevronRight from '@lucide/svelte/icons/chevron-right';
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import { Handle, Position } from '@xyflow/svelte';
import { plural } from '../../state/format.js';

interface Data {
  heading: string;
  folded: boolean;
  names: string[];
  titles: string[];
  mistakes: number;
  fold: () => void;
  rename: (heading: string) => void;
}
/** A group of steps: its name with the area of its steps, or collapsed into one node. */
let { data }: { data: Data } = $props();
</script>

{#if data.folded}<Handle
    type="target"
    position={Position.Top}
    class="handle"
    aria-label="Input of group {data.heading}"
    isConnectable={false}
  />{/if}
<div class={data.folded ? 'step-card border-line' : 'stretch'}>
  <div class="flex items-center gap-2">
    <button
      type="button"
      class="icon-button nodrag nopan"
      aria-expanded={!data.folded}
      aria-label="{data.folded ? 'Expand' : 'Collapse'} {data.heading}"
      onclick={data.fold}
    >
      {#if data.folded}<ChevronRight size={18} aria-hidden="true" />{:else}<ChevronDown
          size={18}
          aria-hidden="true"
        />{/if}
    </button>
    <input
      class="stretch-heading nodrag nopan"
      aria-label="Name of the group {data.heading}"
      value={data.heading}
      onchange={(event) => data.rename(event.currentTarget.value)}
    />
    {#if data.mistakes > 0}
      <span class="flex items-center gap-1 text-sm text-rowan">
        <TriangleAlert size={15} aria-hidden="true" />{plural(data.mistakes, 'mistake')}
      </span>
    {/if}
  </div>
  {#if data.folded}
    <p class="mt-1 text-soft">{plural(data.names.length, 'step')}: {data.titles.join(', ')}</p>
  {/if}
</div>
{#if data.folded}
  <Handle
    type="source"
    id="plain"
    position={Position.Bottom}
    class="handle handle-plain"
    aria-label="Output of group {data.heading}"
    isConnectable={false}
  />
{/if}
