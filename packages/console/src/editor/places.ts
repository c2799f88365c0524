import type { StepCard, StepLink } from '@pindro/contract';
import { layOut } from '../canvas/layout.js';

/** How much of a card can be read: all of it, its title, or only that it is there. */
export type Distance = 'near' | 'far' | 'tiny';
type Point = { x: number; y: number };

/** Where cards stand: arranged by themselves, except those that somebody moved. Kept in this browser. */
export class Places {
  #moved: Map<string, Point>;

  constructor(private readonly flow: string) {
    this.#moved = new Map(Object.entries(JSON.parse(localStorage.getItem(this.#key) ?? '{}') as Record<string, Point>));
  }

  get #key(): string {
    return `pindro-places-${this.flow}`;
  }

  of(cards: StepCard[], links: StepLink[], heights: Map<string, number>): Map<string, Point> {
    const places = layOut(cards, links, heights);
    for (const card of cards) {
      const moved = this.#moved.get(card.name);
      if (moved) places.set(card.name, moved);
    }
    return places;
  }

  move(name: string, point: Point): void {
    this.#moved.set(name, point);
    this.#keep();
  }

  arrange(): void {
    this.#moved.clear();
    this.#keep();
  }

  #keep(): void {
    localStorage.setItem(this.#key, JSON.stringify(Object.fromEntries(this.#moved)));
  }
}
