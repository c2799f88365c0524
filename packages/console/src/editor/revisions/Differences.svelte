<script lang="ts">
import type { FlowComparisonView } from '@pindro/contract/light';
import { Controls, MarkerType, type Node, SvelteFlow } from '@xyflow/svelte';
import { guessHeight, layOut } from '../../canvas/layout.js';
import Lines from '../../parts/text/Lines.svelte';
import { plural } from '../../state/format.js';
import EditNode from '../canvas/EditNode.svelte';

/** Differences between two documents: as sentences, as a drawing, and line by line. */
let { now }: { now: FlowComparisonView } = $props();
const nodeTypes = { step: EditNode };
const places = $derived(layOut(now.cards, now.links, new Map()));
const nodes = $derived(
  now.cards.map((card): Node => ({
    id: card.name,
    type: 'step',
    position: places.get(card.name)!,
    data: { card, mistakes: 0, readonly: true, ...(now.steps[card.name] && { change: now.steps[card.name] }) },
  })),
);
const edges = $derived(
  now.links.map((link) => ({
    id: `${link.from}-${link.branch}-${link.to}`,
    source: link.from,
    sourceHandle: link.branch ?? 'plain',
    target: link.to,
    type: 'smoothstep',
    ...(link.branch && { label: link.branch }),
    markerEnd: { type: MarkerType.ArrowClosed },
  })),
);
/** Whether it says more with both values than without. */
const isPlain = ({ before, after }: FlowComparisonView['changes'][number]) =>
  before !== undefined && after !== undefined && typeof before !== 'object';
const height = $derived(
  Math.min(640, Math.max(300, ...now.cards.map((card) => places.get(card.name)!.y + guessHeight(card))) + 60),
);
</script>

{#if now.changes.length === 0}<p class="text-soft">No differences.</p>{:else}
  <p class="mb-2 font-medium">{plural(now.changes.length, 'difference')}</p>
  <ul class="mb-4 list-disc pl-5">
    {#each now.changes.slice(0, 40) as change (change.at + change.change)}<li>
        {change.what}{#if isPlain(change)}<span class="text-soft"
            >: <span class="chip">{String(change.before)}</span> →
            <span class="chip">{String(change.after)}</span></span
          >{/if}
      </li>{/each}
  </ul>
  {#if Object.keys(now.steps).length > 0}
    <h2 class="sr-only">Steps of both versions</h2>
    <div class="mb-4 rounded-lg border border-line bg-sunk" style="height: {height}px">
      <SvelteFlow
        {nodeTypes}
        {nodes}
        {edges}
        fitView
        minZoom={0.1}
        maxZoom={1}
        nodesDraggable={false}
        nodesConnectable={false}
        elementsSelectable={false}
        deleteKey={null}
        zoomOnScroll={false}
        preventScrolling={false}
        proOptions={{ hideAttribution: true }}
        colorMode="system"><Controls showLock={false} /></SvelteFlow
      >
    </div>
  {/if}
  <Lines lines={now.lines} label="Differences line by line" />
{/if}
