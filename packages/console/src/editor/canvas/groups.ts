import type { StepCard, StepLink } from '@pindro/contract/light';
import type { StepDocument } from '@pindro/core/browser';
import { CARD_WIDTH, guessHeight, layOut, type Point } from '../../canvas/layout.js';

/** How much of a card can be read: all of it, its title, or only that it is there. */
export type Distance = 'near' | 'far' | 'tiny';

/** A group of steps. */
export interface StepGroup {
  heading: string;
  names: string[];
}

export interface Trail {
  cards: StepCard[];
  links: StepLink[];
  places: Map<string, Point>;
  /** Stretches that are unfolded, with the room they take. */
  frames: (StepGroup & { x: number; y: number; width: number; height: number })[];
  /** Stretches that are folded into one card each. */
  folded: StepGroup[];
}

export const FOLDED = 'stretch:';
const HEAD = 44;
const ROOM = 20;

/** What the canvas shows of some steps: their cards where they stand, with folded stretches as one card each. */
export function trailOf(
  cards: readonly StepCard[],
  steps: { [name: string]: StepDocument },
  links: readonly StepLink[],
  heights: ReadonlyMap<string, number>,
  folds: ReadonlySet<string>,
): Trail {
  const stretches = stepGroupsOf(steps);
  const folded = stretches.filter(({ heading }) => folds.has(heading));
  const standsFor = new Map(folded.flatMap(({ heading, names }) => names.map((name) => [name, FOLDED + heading])));
  const shown = cards.filter(({ name }) => !standsFor.has(name));
  const ties = new Map<string, StepLink>();
  for (const link of links) {
    const from = standsFor.get(link.from) ?? link.from;
    const to = standsFor.get(link.to) ?? link.to;
    const branch = standsFor.has(link.from) ? null : link.branch;
    if (from !== to) ties.set(`${from}.${branch ?? ''}-${to}`, { from, to, branch });
  }
  const all = [...shown, ...folded.map(({ heading }) => ({ name: FOLDED + heading, sentence: [], tools: [] }))];
  const places = layOut(all, [...ties.values()], heights, (name) => steps[name]?.under ?? '');
  for (const { name } of shown) {
    const place = steps[name]?.place;
    if (place) places.set(name, { x: place[0], y: place[1] });
  }
  // A collapsed group is at the position of its first node.
  for (const { heading, names } of folded) {
    const place = steps[names[0]!]?.place;
    if (place) places.set(FOLDED + heading, { x: place[0], y: place[1] });
  }
  const byName = new Map(shown.map((card) => [card.name, card]));
  const frames = stretches
    .filter(({ heading }) => !folds.has(heading))
    .map((stretch) => {
      const boxes = stretch.names.flatMap((name) => {
        const point = places.get(name);
        const card = byName.get(name);
        return point && card ? [{ ...point, height: heights.get(name) ?? guessHeight(card) }] : [];
      });
      const x = Math.min(...boxes.map((box) => box.x)) - ROOM;
      const y = Math.min(...boxes.map((box) => box.y)) - HEAD;
      const width = Math.max(...boxes.map((box) => box.x)) + CARD_WIDTH + ROOM - x;
      const height = Math.max(...boxes.map((box) => box.y + box.height)) + ROOM - y;
      return { ...stretch, x, y, width, height };
    });
  return { cards: shown, links: [...ties.values()], places, frames, folded };
}

function stepGroupsOf(steps: { [name: string]: StepDocument }): StepGroup[] {
  const stretches = new Map<string, string[]>();
  for (const [name, { under }] of Object.entries(steps))
    if (under) stretches.set(under, [...(stretches.get(under) ?? []), name]);
  return [...stretches].map(([heading, names]) => ({ heading, names }));
}
