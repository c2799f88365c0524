<script lang="ts">
import Box from '@lucide/svelte/icons/box';
import NotebookPen from '@lucide/svelte/icons/notebook-pen';
import type { StepCard } from '@pindro/contract/light';
import { Handle, Position, useUpdateNodeInternals } from '@xyflow/svelte';
import { getContext, tick, untrack } from 'svelte';
import CardTools from '../../canvas/CardTools.svelte';
import { iconOf } from '../../canvas/icons.js';
import Sentence from '../../parts/text/Sentence.svelte';
import CardMarks from './CardMarks.svelte';
import type { Distance } from './groups.js';

interface Data {
  card: StepCard;
  state?: string;
  took?: string;
  held?: boolean;
  mistakes: number;
  /** How much is still to be filled in, and nobody has left it yet. */
  toFill?: number;
  warnings?: number;
  found?: boolean;
  /** Branches that nothing is tied to, named at their handles. */
  loose?: string[];
  change?: 'added' | 'removed' | 'changed';
  readonly?: boolean;
  open?: () => void;
  /** Opens its toolbox. */
  openTools?: () => void;
}
let { id, data, selected }: { id: string; data: Data; selected?: boolean } = $props();

const EDGES: Record<string, string> = {
  done: 'border-spruce',
  failed: 'border-rowan',
  running: 'border-glacier',
  waiting: 'border-ochre',
  added: 'border-spruce',
  removed: 'border-rowan border-dashed',
  changed: 'border-ochre',
};
const distance = getContext<(() => Distance) | undefined>('distance');
const Icon = $derived(iconOf(data.card.kind));
const border = $derived(
  EDGES[data.change ?? data.state ?? ''] ?? (data.mistakes > 0 ? 'border-rowan' : 'border-line'),
);
const rings = $derived(
  [selected && 'ring-3 ring-glacier/60', data.found && 'ring-4 ring-ochre/60', data.card.off && 'opacity-60']
    .filter(Boolean)
    .join(' '),
);
const ways = $derived(['', ...data.card.branches]);
const waysKey = $derived(ways.join());
const update = useUpdateNodeInternals();
// A handle that came later is measured, so that a link at it is drawn at once.
let measured = '';
$effect(() => {
  const now = waysKey;
  const was = untrack(() => measured);
  measured = now;
  if (was !== '' && was !== now) void tick().then(() => update(id));
});
const left = (index: number) => `left: ${((index + 1) * 100) / (ways.length + 1)}%`;
</script>

<Handle
  type="target"
  position={Position.Top}
  class="handle"
  aria-label="Input of {data.card.title}"
  isConnectable={!data.readonly}
/>
{#if (distance?.() ?? 'near') === 'near'}
  <article class="step-card {border} {rings}">
    <div class="mb-1.5 flex items-center justify-between gap-2">
      <h3 class="step-title">
        <Icon size={17} class="shrink-0 text-spruce" aria-hidden="true" />
        <span class="wrap-anywhere">{data.card.title}</span>
      </h3>
      <CardMarks {data} />
    </div>
    <p class="leading-relaxed"><Sentence parts={data.card.sentence} /></p>
    {#if data.card.note}
      <p class="mt-2 flex gap-1.5 text-sm text-soft">
        <NotebookPen size={15} class="mt-0.5 shrink-0" aria-hidden="true" />{data.card.note}
      </p>
    {/if}
    <CardTools tools={data.card.tools} open={data.openTools} />
    {#if data.open}
      <button type="button" class="button button-small nodrag mt-3" onclick={data.open}>
        <Box size={15} aria-hidden="true" />
        {data.card.kind === 'each' ? 'Open the steps inside' : 'Open the flow'}
      </button>
    {/if}
  </article>
{:else}
  <article class="step-card step-card-far {border} {rings}">{data.card.title}</article>
{/if}
{#each ways as way, index (way)}
  <Handle
    type="source"
    id={way || 'plain'}
    position={Position.Bottom}
    class={way ? 'handle handle-branch' : 'handle handle-plain'}
    style={left(index)}
    title={way ? `when ${way}` : 'then'}
    aria-label={way ? `Branch ${way} of ${data.card.title}` : `Output of ${data.card.title}`}
    isConnectable={!data.readonly}
  />
  {#if way && data.loose?.includes(way)}
    <span class="handle-name" style={left(index)}>{way.replaceAll('_', ' ')}</span>
  {/if}
{/each}
