<script lang="ts">
import type { StepLink } from '@pindro/contract/light';
import { useNodesInitialized, useSvelteFlow, useViewport } from '@xyflow/svelte';
import { untrack } from 'svelte';
import { ALL } from '../canvas/fit.js';
import { askHeading } from '../canvas/group-names.js';
import type { Distance } from '../canvas/groups.js';
import type { Editor } from '../session/session.svelte.js';
import { localProblem } from '../../state/local-problem.js';

interface Props {
  editor: Editor;
  links: StepLink[];
  turn: number;
  shape: string;
  onMeasured: (heights: Map<string, number>) => void;
  onRemove: () => void;
  onArrange: () => void;
  onAdd: () => void;
  /** Told how much of a card can be read from where one looks: all of it, its title, or only that it is there. */
  onDistance: (distance: Distance) => void;
}
/** What the keyboard does on the canvas, and looking after what is in view. */
let { editor, links, turn, shape, onMeasured, onRemove, onArrange, onAdd, onDistance }: Props = $props();
/** Below the first zoom a sentence is a grey line, below the second a title is one too. */
const FAR = 0.42;
const TINY = 0.25;
const ready = useNodesInitialized();
const viewport = useViewport();
const afar = $derived(viewport.current.zoom < TINY ? 'tiny' : viewport.current.zoom < FAR ? 'far' : 'near');
$effect(() => onDistance(afar));
const { getNodes, fitView, setCenter, getZoom } = useSvelteFlow();
let measured = '';

// Cards are laid out again once their true heights are known.
$effect(() => {
  void turn;
  if (!ready.current || measured === shape) return;
  measured = shape;
  untrack(() => {
    const first = getNodes().length > 0 && turn === 0;
    onMeasured(new Map(getNodes().map((node) => [node.id, node.measured?.height ?? 0])));
    // A small flow is always seen whole; in a large one the step that was just added comes into view.
    if (first || getNodes().length <= 10) requestAnimationFrame(() => void fitView(ALL));
    else if (editor.step) requestAnimationFrame(() => editor.step && show(editor.step));
  });
});

function show(name: string) {
  const node = getNodes().find((one) => one.id === name);
  if (node)
    void setCenter(node.position.x + 200, node.position.y + 80, { zoom: Math.max(getZoom(), 0.6), duration: 150 });
}

/** From step to step along the links, and from side to side. */
function neighbour(key: string): string | undefined {
  const all = Object.keys(editor.steps);
  const here = editor.selected[0];
  if (here === undefined) return all[0];
  if (key === 'ArrowDown') return links.find((link) => link.from === here)?.to;
  if (key === 'ArrowUp') return links.find((link) => link.to === here)?.from;
  const places = new Map(getNodes().map((node) => [node.id, node.position]));
  const at = places.get(here)!;
  const side = key === 'ArrowRight' ? 1 : -1;
  return all
    .filter((name) => name !== here && (places.get(name)!.x - at.x) * side > 0)
    .sort((a, b) => distance(places.get(a)!, at) - distance(places.get(b)!, at))[0];
}
const distance = (a: { x: number; y: number }, b: { x: number; y: number }) =>
  Math.hypot(a.x - b.x, (a.y - b.y) * 2);

const isField = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

function pressed(event: KeyboardEvent) {
  if (isField(event.target) || document.querySelector('[role="dialog"]')) return;
  const command = event.ctrlKey || event.metaKey;
  const key = event.key.toLowerCase();
  const onCanvas = event.target === document.body || (event.target as HTMLElement).closest('.svelte-flow') !== null;
  const actions: Record<string, () => void> = command
    ? { z: event.shiftKey ? editor.redo : editor.undo, y: editor.redo, d: () => editor.duplicate() }
    : onCanvas
      ? {
          delete: onRemove,
          backspace: onRemove,
          a: onAdd,
          o: () => editor.toggle(),
          l: onArrange,
          h: () => askHeading(editor),
          1: () => void fitView({ ...ALL, duration: 150 }),
        }
      : {};
  const focused = (event.target as HTMLElement).closest<HTMLElement>('.svelte-flow__node')?.dataset.id;
  if (
    !command &&
    focused !== undefined &&
    event.target === (event.target as HTMLElement).closest('.svelte-flow__node') &&
    (key === 'enter' || key === ' ')
  ) {
    event.preventDefault();
    editor.select([focused]);
    return;
  }
  const action = actions[key];
  if (action) {
    event.preventDefault();
    return action();
  }
  if (!command && onCanvas && event.key.startsWith('Arrow')) {
    const name = neighbour(event.key);
    if (name === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    editor.select([name]);
    show(name);
  }
}
function copied(event: ClipboardEvent, cut: boolean) {
  if (isField(event.target) || editor.selected.length === 0 || getSelection()?.toString()) return;
  event.preventDefault();
  event.clipboardData?.setData('text/plain', editor.copy());
  if (cut) editor.remove();
}
function pasted(event: ClipboardEvent) {
  if (isField(event.target) || document.querySelector('[role="dialog"]')) return;
  const why = editor.paste(event.clipboardData?.getData('text/plain') ?? '');
  if (why) editor.problem = localProblem(why);
}
</script>

<svelte:window
  onkeydowncapture={pressed}
  oncopy={(event) => copied(event, false)}
  oncut={(event) => copied(event, true)}
  onpaste={pasted}
/>
