<script lang="ts">
import type { StepLink } from '@pindro/contract/light';
import { type Node, ViewportPortal } from '@xyflow/svelte';
import { CARD_WIDTH } from './layout.js';

/** All links as one line, for a canvas seen from afar: one thing to paint instead of hundreds. */
let { nodes, links }: { nodes: Node[]; links: StepLink[] } = $props();
const path = $derived.by(() => {
  const boxes = new Map(nodes.map((node) => [node.id, node]));
  return links
    .map(({ from, to }) => {
      const [a, b] = [boxes.get(from), boxes.get(to)];
      if (!a || !b) return '';
      const x = a.position.x + CARD_WIDTH / 2;
      const y = a.position.y + (a.measured?.height ?? 100);
      const end = b.position.x + CARD_WIDTH / 2;
      const middle = (y + b.position.y) / 2;
      return `M${x} ${y}V${middle}H${end}V${b.position.y}`;
    })
    .join('');
});
</script>

<ViewportPortal target="back">
  <svg class="lines" aria-hidden="true"><path d={path} /></svg>
</ViewportPortal>
