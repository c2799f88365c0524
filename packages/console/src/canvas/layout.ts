import dagre from '@dagrejs/dagre';
import type { StepCard, StepLink } from '@pindro/contract/light';
import { layOutPlainly } from './plain-layout.js';

export const CARD_WIDTH = 400;
/** The careful layout takes time with the square of what there is. */
const MOST_CAREFUL = 400;

export interface Point {
  x: number;
  y: number;
}
type Placed = Pick<StepCard, 'name' | 'sentence' | 'tools'>;

/** About how high a card will be; the canvas measures it once it is drawn. */
export function guessHeight(card: Placed): number {
  const characters = card.sentence.reduce(
    (sum, part) =>
      sum + (typeof part === 'string' ? part.length : Math.min(110, JSON.stringify(part.value ?? '').length) + 3),
    0,
  );
  return (
    64 +
    Math.ceil(characters / 46) * 25 +
    card.tools.reduce((sum, tool) => sum + 46 + tool.set.length * 20, card.tools.length > 0 ? 14 : 0)
  );
}

/**
 * Computes node positions from top to bottom. Pure: the same flow has the same layout.
 * @param stretchOf the group of a node, so that nodes of a group stay together
 */
export function layOut(
  cards: readonly Placed[],
  links: readonly StepLink[],
  heights: ReadonlyMap<string, number>,
  stretchOf: (name: string) => string = () => '',
): Map<string, Point> {
  const heightOf = (card: Placed) => heights.get(card.name) ?? guessHeight(card);
  if (cards.length > MOST_CAREFUL)
    return layOutPlainly(
      cards.map((card) => ({ name: card.name, height: heightOf(card) })),
      links,
      CARD_WIDTH,
    );
  const graph = new dagre.graphlib.Graph({ multigraph: true, compound: true });
  graph.setGraph({ rankdir: 'TB', nodesep: 48, ranksep: 64, marginx: 8, marginy: 8 });
  graph.setDefaultEdgeLabel(() => ({}));
  const stretches = new Set(cards.map((card) => stretchOf(card.name)).filter(Boolean));
  for (const heading of stretches) graph.setNode(`stretch ${heading}`, {});
  for (const card of cards) {
    graph.setNode(card.name, { width: CARD_WIDTH, height: heightOf(card) });
    if (stretchOf(card.name)) graph.setParent(card.name, `stretch ${stretchOf(card.name)}`);
  }
  for (const link of links) graph.setEdge(link.from, link.to, {}, `branch ${link.branch ?? ''}`);
  dagre.layout(graph);
  return new Map(
    cards.map((card) => {
      const { x, y, height } = graph.node(card.name);
      return [card.name, { x: x - CARD_WIDTH / 2, y: y - height / 2 }];
    }),
  );
}
