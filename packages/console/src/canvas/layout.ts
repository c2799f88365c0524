import dagre from '@dagrejs/dagre';
import type { StepCard, StepLink } from '@pindro/contract';

export const CARD_WIDTH = 400;

/** About how high a card will be; the canvas measures it once it is drawn. */
export function guessHeight(card: StepCard): number {
  const characters = card.sentence.reduce(
    (sum, part) =>
      sum + (typeof part === 'string' ? part.length : Math.min(110, JSON.stringify(part.value).length) + 3),
    0,
  );
  return (
    64 +
    Math.ceil(characters / 46) * 25 +
    card.tools.reduce((sum, tool) => sum + 46 + tool.set.length * 20, card.tools.length > 0 ? 14 : 0)
  );
}

/** Where the cards stand, read like a trail from top to bottom. Pure: the same flow gives the same picture. */
export function layOut(
  cards: StepCard[],
  links: StepLink[],
  heights: Map<string, number>,
): Map<string, { x: number; y: number }> {
  const graph = new dagre.graphlib.Graph({ multigraph: true });
  graph.setGraph({ rankdir: 'TB', nodesep: 48, ranksep: 64, marginx: 8, marginy: 8 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const card of cards)
    graph.setNode(card.name, { width: CARD_WIDTH, height: heights.get(card.name) ?? guessHeight(card) });
  for (const link of links) graph.setEdge(link.from, link.to, {}, `branch ${link.branch ?? ''}`);
  dagre.layout(graph);
  return new Map(
    cards.map((card) => {
      const { x, y, height } = graph.node(card.name);
      return [card.name, { x: x - CARD_WIDTH / 2, y: y - height / 2 }];
    }),
  );
}
