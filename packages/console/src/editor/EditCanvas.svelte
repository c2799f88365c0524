<script lang="ts">
import AlignCenterVertical from '@lucide/svelte/icons/align-center-vertical';
import type { StepCard, StepLink } from '@pindro/contract';
import { ControlButton, Controls, type Edge, MarkerType, type Node, SvelteFlow } from '@xyflow/svelte';
import { setContext, untrack } from 'svelte';
import EditEdge from './EditEdge.svelte';
import EditNode from './EditNode.svelte';
import Keys from './Keys.svelte';
import { type Distance, Places } from './places.js';
import type { Editor } from './session.svelte.js';

interface Props {
  editor: Editor;
  /** How each step came out in the last try. */
  states: Map<string, { state: string; took?: string }>;
  held: string[];
  found: string | null;
  onAdd: (link?: { after: { from: string; branch: string | null }; before: string }) => void;
  onOpenFlow: (flow: string) => void;
}
let { editor, states, held, found, onAdd, onOpenFlow }: Props = $props();

const nodeTypes = { step: EditNode };
const edgeTypes = { link: EditEdge };
// svelte-ignore state_referenced_locally
const arranged = new Places(editor.name);
let heights = $state.raw(new Map<string, number>());
let turn = $state(0);
/** While it is moved the picture is kept as it is; it is drawn sharp again afterwards. */
let moving = $state(false);
let distance = $state<Distance>('near');
setContext('tiny', () => distance === 'tiny');
let nodes = $state.raw<Node[]>([]);
let edges = $state.raw<Edge[]>([]);

/** The cards as the service drew them; a step it has not seen yet is shown with what is known. */
const cards = $derived.by((): StepCard[] => {
  const drawn = new Map(editor.cards.map((card) => [card.name, card]));
  return Object.entries(editor.steps).map(([name, step]) => ({
    name,
    kind: step.kind,
    note: step.note ?? '',
    title: step.title ?? name.replaceAll('_', ' '),
    off: step.off ?? false,
    sentence: [],
    branches: [],
    output: {},
    inside: [],
    tools: [],
    ...(drawn.get(name)?.kind === step.kind && {
      ...drawn.get(name)!,
      title: step.title ?? name.replaceAll('_', ' '),
      off: step.off ?? false,
    }),
  }));
});
const links = $derived(
  Object.entries(editor.steps).flatMap(([to, step]): StepLink[] =>
    (step.after ?? []).flatMap((text) => {
      const [from = '', branch = null] = text.split('.');
      return from in editor.steps ? [{ from, to, branch }] : [];
    }),
  ),
);
const shape = $derived(JSON.stringify([Object.keys(editor.steps), links]));
const places = $derived.by(() => {
  void turn;
  void shape;
  return untrack(() => arranged.of(cards, links, heights));
});

$effect(() => {
  const chosen = new Set(editor.selected);
  const fresh = cards.map(
    (card): Node => ({
      id: card.name,
      type: 'step',
      position: places.get(card.name) ?? { x: 0, y: 0 },
      selected: chosen.has(card.name),
      data: {
        card,
        ...states.get(card.name),
        held: held.includes(card.name) && editor.place.length === 0,
        found: found === card.name,
        mistakes: editor.mistakesAt(editor.at(card.name)).length,
        ...(card.kind === 'each' &&
          editor.steps[card.name]?.with?.steps !== undefined && { open: () => editor.open(card.name) }),
        ...(typeof editor.steps[card.name]?.with?.flow === 'string' && {
          open: () => onOpenFlow(String(editor.steps[card.name]!.with!.flow)),
        }),
      },
      ariaLabel: `Step ${card.title}, ${card.kind}`,
    }),
  );
  untrack(() => {
    const known = new Map(nodes.map((node) => [node.id, node]));
    nodes = fresh.map((node) => {
      const old = known.get(node.id);
      return { ...old, ...node, ...(old?.dragging && { position: old.position }) };
    });
  });
});
$effect(() => {
  const went = (link: StepLink) => ['done', 'failed', 'running', 'waiting'].includes(states.get(link.to)?.state ?? '');
  const fresh = links.map(
    (link): Edge => ({
      id: `${link.from}.${link.branch ?? ''}-${link.to}`,
      source: link.from,
      sourceHandle: link.branch ?? 'plain',
      target: link.to,
      type: 'link',
      data: { ...link, add: () => onAdd({ after: { from: link.from, branch: link.branch }, before: link.to }) },
      markerEnd: { type: MarkerType.ArrowClosed, color: 'var(--soft)' },
      style: went(link) ? 'stroke: var(--spruce); stroke-width: 2.5' : 'stroke-width: 1.5',
      ariaLabel: `${link.from} ${link.branch ? `on ${link.branch} ` : ''}leads to ${link.to}`,
    }),
  );
  untrack(() => {
    const known = new Map(edges.map((edge) => [edge.id, edge]));
    edges = fresh.map((edge) => ({ ...known.get(edge.id), ...edge }));
  });
});

function connected({ source, sourceHandle, target }: { source: string; sourceHandle?: string | null; target: string }) {
  editor.link({ from: source, branch: !sourceHandle || sourceHandle === 'plain' ? null : sourceHandle }, target);
}
/** With Ctrl or Shift a click adds to what is selected, or takes away from it. */
function choose(name: string, event: MouseEvent | TouchEvent) {
  const more = 'shiftKey' in event && (event.shiftKey || event.ctrlKey || event.metaKey);
  const rest = editor.selected.filter((one) => one !== name);
  editor.selected = !more ? [name] : editor.selected.includes(name) ? rest : [...rest, name];
}
function removeSelected() {
  const cut = edges.filter((edge) => edge.selected);
  for (const edge of cut) {
    const link = edge.data as unknown as StepLink;
    editor.unlink({ from: link.from, branch: link.branch }, link.to);
  }
  if (cut.length === 0) editor.remove();
}
function arrange() {
  arranged.arrange();
  turn++;
}
</script>

<SvelteFlow
  {nodeTypes}
  {edgeTypes}
  bind:nodes
  bind:edges
  fitView
  fitViewOptions={{ maxZoom: 1, padding: 0.1 }}
  minZoom={0.1}
  maxZoom={1.5}
  deleteKey={null}
  onlyRenderVisibleElements={cards.length > 60}
  proOptions={{ hideAttribution: true }}
  colorMode="system"
  onconnect={connected}
  onmovestart={() => (moving = true)}
  onmoveend={() => (moving = false)}
  class="{moving ? 'moving' : ''} {distance}"
  onnodeclick={({ node, event }) => choose(node.id, event)}
  onpaneclick={() => (editor.selected = [])}
  onselectionend={() => (editor.selected = nodes.filter((node) => node.selected).map((node) => node.id))}
  onnodedragstop={({ nodes: dragged }) => {
    for (const node of dragged) arranged.move(node.id, node.position);
  }}
>
  <Controls showLock={false}><ControlButton onclick={arrange} aria-label="Arrange the steps" title="Arrange (L)"><AlignCenterVertical aria-hidden="true" /></ControlButton></Controls>
  <Keys {editor} {links} {turn} {shape} onMeasured={(measured) => { heights = measured; turn++; }} onRemove={removeSelected} onArrange={arrange} {onAdd} onDistance={(now) => (distance = now)} />
</SvelteFlow>
