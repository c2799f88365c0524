<script lang="ts">
import Box from '@lucide/svelte/icons/box';
import NotebookPen from '@lucide/svelte/icons/notebook-pen';
import Pause from '@lucide/svelte/icons/pause';
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import Wrench from '@lucide/svelte/icons/wrench';
import type { StepCard } from '@pindro/contract';
import { Handle, Position } from '@xyflow/svelte';
import { iconOf } from '../canvas/icons.js';
import Sentence from '../parts/Sentence.svelte';
import State from '../parts/State.svelte';

interface Data {
  card: StepCard;
  state?: string;
  took?: string;
  held?: boolean;
  mistakes: number;
  found?: boolean;
  change?: 'added' | 'removed' | 'changed';
  readonly?: boolean;
  open?: () => void;
}
let { data, selected }: { data: Data; selected?: boolean } = $props();

const EDGES: Record<string, string> = {
  done: 'border-spruce',
  failed: 'border-rowan',
  running: 'border-glacier',
  waiting: 'border-ochre',
  added: 'border-spruce',
  removed: 'border-rowan border-dashed',
  changed: 'border-ochre',
};
const Icon = $derived(iconOf(data.card.kind));
const border = $derived(EDGES[data.change ?? data.state ?? ''] ?? (data.mistakes > 0 ? 'border-rowan' : 'border-line'));
const ways = $derived(['', ...data.card.branches]);
</script>

<Handle type="target" position={Position.Top} class="!size-3 !border-2 !border-card !bg-soft" isConnectable={!data.readonly} />
<article class="w-[400px] rounded-lg border-2 bg-card p-4 text-left shadow-sm {border} {selected ? 'ring-3 ring-glacier/60' : ''} {data.found ? 'ring-4 ring-ochre/60' : ''} {data.card.off ? 'opacity-60' : ''}">
  <div class="mb-1.5 flex items-center justify-between gap-2">
    <h3 class="flex min-w-0 items-center gap-2 font-semibold"><Icon size={17} class="shrink-0 text-spruce" aria-hidden="true" /><span class="wrap-anywhere">{data.card.title}</span></h3>
    <span class="flex shrink-0 items-center gap-1.5 text-sm text-soft">
      {#if data.mistakes > 0}<span class="flex items-center gap-1 text-rowan"><TriangleAlert size={15} aria-hidden="true" />{data.mistakes}<span class="sr-only"> mistakes</span></span>{/if}
      {#if data.held}<span class="flex items-center gap-1 rounded-full bg-ochre-wash px-2 text-ochre"><Pause size={13} aria-hidden="true" />held</span>{/if}
      {#if data.change}<State state={data.change === 'added' ? 'done' : data.change === 'removed' ? 'failed' : 'changed'} label={data.change} />
      {:else if data.state}<State state={data.state} label={data.took ? `${data.state}, ${data.took}` : data.state} />
      {:else}{data.card.off ? 'off' : data.card.kind}{/if}
    </span>
  </div>
  <p class="leading-relaxed"><Sentence parts={data.card.sentence} /></p>
  {#if data.card.note}<p class="mt-2 flex gap-1.5 text-sm text-soft"><NotebookPen size={15} class="mt-0.5 shrink-0" aria-hidden="true" />{data.card.note}</p>{/if}
  {#if data.card.tools.length > 0}
    <ul class="mt-3 divide-y divide-line border-t border-line" aria-label="Toolbox">
      {#each data.card.tools as tool (tool.from)}
        <li class="flex items-start gap-2 py-1.5 text-sm"><Wrench size={14} class="mt-1 shrink-0 text-soft" aria-hidden="true" /><span><span class="font-medium">{tool.from}</span> <span class="text-soft">{tool.use}</span></span></li>
      {/each}
    </ul>
  {/if}
  {#if data.open}<button type="button" class="button nodrag mt-3 py-1 text-sm" onclick={data.open}><Box size={15} aria-hidden="true" /> {data.card.kind === 'each' ? 'Open the steps inside' : 'Open the flow'}</button>{/if}
</article>
{#each ways as way, index (way)}
  <Handle type="source" id={way || 'plain'} position={Position.Bottom} class="!size-3 !border-2 !border-card {way ? '!bg-ochre' : '!bg-spruce'}" style="left: {((index + 1) * 100) / (ways.length + 1)}%" title={way ? `when ${way}` : 'then'} isConnectable={!data.readonly} />
{/each}
