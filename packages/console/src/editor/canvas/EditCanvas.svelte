<script lang="ts">
import AlignCenterVertical from '@lucide/svelte/icons/align-center-vertical';
import type { StepLink } from '@pindro/contract/light';
import { ControlButton, Controls, type Edge, type Node, SvelteFlow } from '@xyflow/svelte';
import { setContext, untrack } from 'svelte';
import type { Point } from '../../canvas/layout.js';
import Lines from '../../canvas/Lines.svelte';
import { Folds } from './folds.svelte.js';
import { cardsFor, linksFor } from './card-parts.js';
import EditEdge from './EditEdge.svelte';
import EditNode from './EditNode.svelte';
import { edgesOf, nodesOf } from './elements.js';
import Keys from '../flow/Keys.svelte';
import type { Editor } from '../session/session.svelte.js';
import GroupNode from './GroupNode.svelte';
import { ALL } from './fit.js';
import { type Distance, FOLDED, trailOf } from './groups.js';

interface Props {
  editor: Editor;
  /** How each step came out in the last try. */
  states: Map<string, { state: string; took?: string }>;
  held: string[];
  found: string | null;
  onAdd: (link?: { after: { from: string; branch: string | null }; before: string }) => void;
  onOpenFlow: (flow: string) => void;
  /** A card was clicked, whether it was selected already or not. */
  onChoose: () => void;
}
let { editor, states, held, found, onAdd, onOpenFlow, onChoose }: Props = $props();

const nodeTypes = { step: EditNode, stretch: GroupNode };
const edgeTypes = { link: EditEdge };
/** A canvas with more nodes than this draws its links as one line while it moves, and omits what is out of view. */
const MANY = 60;
// svelte-ignore state_referenced_locally
const folds = new Folds(editor.name);
let heights = $state.raw(new Map<string, number>());
let turn = $state(0);
let distance = $state<Distance>('near');
setContext('distance', () => distance);
let nodes = $state.raw<Node[]>([]);
let edges = $state.raw<Edge[]>([]);

const cards = $derived(cardsFor(editor.cards, editor.steps));
const links = $derived(linksFor(editor.steps));
const isLarge = $derived(cards.length > MANY);
/** From afar nobody takes hold of a link: all of them are one line then. */
const asLines = $derived(isLarge && distance !== 'near');
/** Where cards stand changes with what there is and how it is tied, not with every letter that is typed. */
const shape = $derived(
  JSON.stringify([
    Object.entries(editor.steps).map(([name, { place, under }]) => [name, place, under]),
    links,
    [...folds.list],
  ]),
);
const trail = $derived.by(() => {
  void turn;
  void shape;
  return untrack(() => trailOf(cards, editor.steps, links, heights, folds.list));
});

$effect(() => {
  const open = (name: string) => {
    const { kind, with: config } = editor.steps[name]!;
    if (kind === 'each' && config?.steps !== undefined) return () => editor.open(name);
    if (typeof config?.flow !== 'string') return undefined;
    const { flow } = config;
    return () => onOpenFlow(flow);
  };
  const fresh = nodesOf(trail, cards, {
    ...{ states, found, open },
    held: editor.place.length === 0 ? held : [],
    selected: new Set(editor.selected),
    mistakes: (name) => editor.mistakesAt(editor.at(name)),
    warnings: (name) => editor.warningsAt(editor.at(name)).length,
    isCalm: (mistake) => editor.isCalm(mistake),
    tied: new Set(links.flatMap(({ from, branch }) => (branch ? [`${from}.${branch}`] : []))),
    openTools: (name) => {
      editor.select([name]);
      editor.wantsToolbox = true;
      onChoose();
    },
    fold: (heading, on) => folds.set(heading, on),
    rename: (names, heading) => editor.gather(names, heading),
  });
  untrack(() => {
    const known = new Map(nodes.map((node) => [node.id, node]));
    nodes = fresh.map((node) => {
      const old = known.get(node.id);
      return { ...old, ...node, ...(old?.dragging && { position: old.position }) };
    });
  });
});
$effect(() => {
  const fresh = asLines ? [] : edgesOf(trail.links, states, (link) => onAdd({ after: link, before: link.to }));
  untrack(() => {
    const known = new Map(edges.map((edge) => [edge.id, edge]));
    edges = fresh.map((edge) => ({ ...known.get(edge.id), ...edge }));
  });
});

function connected({
  source,
  sourceHandle,
  target,
}: {
  source: string;
  sourceHandle?: string | null;
  target: string;
}) {
  if (source.startsWith(FOLDED) || target.startsWith(FOLDED)) return;
  editor.link({ from: source, branch: !sourceHandle || sourceHandle === 'plain' ? null : sourceHandle }, target);
}
/** With Ctrl or Shift a click adds to what is selected, or takes away from it. */
function choose(name: string, event: MouseEvent | TouchEvent) {
  if (!(name in editor.steps)) return;
  const more = 'shiftKey' in event && (event.shiftKey || event.ctrlKey || event.metaKey);
  const rest = editor.selected.filter((one) => one !== name);
  onChoose();
  editor.select(!more ? [name] : editor.selected.includes(name) ? rest : [...rest, name]);
}
function removeSelected() {
  const cut = edges.filter((edge) => edge.selected);
  for (const edge of cut) {
    const link = edge.data as unknown as StepLink;
    editor.unlink({ from: link.from, branch: link.branch }, link.to);
  }
  if (cut.length === 0) editor.remove();
}
/** A collapsed group moves with its steps. */
function moved(dragged: Node[]) {
  const places = new Map<string, Point>();
  for (const node of dragged) {
    if (node.id in editor.steps) places.set(node.id, node.position);
    const stretch = trail.folded.find(({ heading }) => FOLDED + heading === node.id);
    for (const [index, name] of (stretch?.names ?? []).entries())
      places.set(name, { x: node.position.x, y: node.position.y + index * 160 });
  }
  if (places.size > 0) editor.move(places);
}
function arrange() {
  editor.arrange();
  turn++;
}
</script>

<SvelteFlow
  {nodeTypes}
  {edgeTypes}
  bind:nodes
  bind:edges
  fitView
  fitViewOptions={ALL}
  minZoom={0.05}
  maxZoom={1.5}
  deleteKey={null}
  onlyRenderVisibleElements={isLarge}
  elevateNodesOnSelect={false}
  proOptions={{ hideAttribution: true }}
  colorMode="system"
  onconnect={connected}
  class="{distance} {isLarge ? 'many' : ''}"
  onnodeclick={({ node, event }) => choose(node.id, event)}
  onpaneclick={() => editor.select([])}
  onselectionend={() => editor.select(nodes.filter((node) => node.selected).map((node) => node.id))}
  onnodedragstop={({ nodes: dragged }) => moved(dragged)}
>
  <Controls showLock={false}>
    <ControlButton onclick={arrange} aria-label="Arrange the steps" title="Arrange (L)">
      <AlignCenterVertical aria-hidden="true" />
    </ControlButton>
  </Controls>
  {#if asLines}<Lines {nodes} links={trail.links} />{/if}
  <Keys
    {editor}
    {links}
    {turn}
    {shape}
    onMeasured={(measured) => {
      heights = measured;
      turn++;
    }}
    onRemove={removeSelected}
    onArrange={arrange}
    {onAdd}
    onDistance={(now) => (distance = now)}
  />
</SvelteFlow>
