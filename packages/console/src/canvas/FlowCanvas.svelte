<script lang="ts">
import type { StepCard, StepLink } from '@pindro/contract/light';
import { Controls, type Edge, MarkerType, type Node, SvelteFlow } from '@xyflow/svelte';
import { untrack } from 'svelte';
import Fit from './Fit.svelte';
import { guessHeight, layOut } from './layout.js';
import StepNode from './StepNode.svelte';

interface Props {
  cards: StepCard[];
  links: StepLink[];
  /** How each step came out, for a run. */
  states?: Map<string, { state: string; took?: string; branch?: string | null; why?: string }>;
  /** A step to point at. */
  lit?: string | null;
  /** Whether it is as high as what it stands in, instead of as high as the flow. */
  fill?: boolean;
  onPick?: (step: string) => void;
}
let { cards, links, states, lit = null, fill = false, onPick }: Props = $props();

const nodeTypes = { step: StepNode };
let heights = $state.raw(new Map<string, number>());
const places = $derived(layOut(cards, links, heights));
let nodes = $state.raw<Node[]>([]);
// What the canvas has measured of a card must outlive a change of its data, or the card would vanish.
$effect(() => {
  const fresh = cards.map((card): Node => ({
    id: card.name,
    type: 'step',
    position: places.get(card.name)!,
    data: { card, ...states?.get(card.name), lit: lit === card.name },
    draggable: false,
    connectable: false,
    ariaLabel: `Step ${card.title}, ${card.kind}`,
  }));
  untrack(() => {
    const known = new Map(nodes.map((node) => [node.id, node]));
    nodes = fresh.map((node) => ({ ...known.get(node.id), ...node }));
  });
});
const went = (link: StepLink) =>
  states !== undefined && states.get(link.to)?.state !== undefined && states.get(link.to)?.state !== 'skipped';
let edges = $derived<Edge[]>(
  links.map((link) => ({
    id: `${link.from}.${link.branch ?? ''}-${link.to}`,
    source: link.from,
    target: link.to,
    type: 'smoothstep',
    ...(link.branch && { label: link.branch }),
    markerEnd: { type: MarkerType.ArrowClosed, color: 'var(--soft)' },
    style: went(link) ? 'stroke: var(--spruce); stroke-width: 2.5' : 'stroke-width: 1.5',
    ariaLabel: `Link from ${link.from} ${link.branch ? `on ${link.branch} ` : ''}to ${link.to}`,
  })),
);
/** As high as the flow is, within reason, so that a short one leaves no empty ground. */
const height = $derived(
  Math.min(
    720,
    Math.max(
      260,
      ...cards.map((card) => (places.get(card.name)?.y ?? 0) + (heights.get(card.name) ?? guessHeight(card))),
    ) + 60,
  ),
);
</script>

<div class="rounded-lg border border-line bg-sunk" style="height: {fill ? '100%' : `${height}px`}">
  <SvelteFlow
    {nodeTypes}
    bind:nodes
    bind:edges
    fitView
    minZoom={0.2}
    maxZoom={1.5}
    nodesDraggable={false}
    nodesConnectable={false}
    deleteKey={null}
    zoomOnScroll={false}
    preventScrolling={false}
    onnodeclick={({ node }) => onPick?.(node.id)}
    proOptions={{ hideAttribution: true }}
    colorMode="system"
  >
    <Controls showLock={false} />
    <Fit onMeasured={(measured) => (heights = measured)} />
  </SvelteFlow>
</div>
