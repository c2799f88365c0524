import type { StepCard, StepLink } from '@pindro/contract/light';
import { type Edge, MarkerType, type Node } from '@xyflow/svelte';
import type { Mistake } from '../../forms/place.js';
import { FOLDED, type StepGroup, type Trail } from './groups.js';

interface Look {
  states: Map<string, { state: string; took?: string }>;
  held: string[];
  found: string | null;
  selected: ReadonlySet<string>;
  /** Branches that some step follows, as `step.branch`. */
  tied: ReadonlySet<string>;
  mistakes(name: string): Mistake[];
  warnings(name: string): number;
  isCalm(mistake: Mistake): boolean;
  open(name: string): (() => void) | undefined;
  openTools?: ((name: string) => void) | undefined;
  fold(heading: string, on: boolean): void;
  rename(names: string[], heading: string): void;
}

/** A trail as the canvas has it: frames of stretches behind, cards before them. */
export function nodesOf(trail: Trail, all: readonly StepCard[], look: Look): Node[] {
  // Positions are recomputed occasionally; labels are always current.
  const now = new Map(all.map((card) => [card.name, card]));
  const at = (name: string) => trail.places.get(name) ?? { x: 0, y: 0 };
  const stretch = (one: StepGroup, folded: boolean) => ({
    ...one,
    folded,
    mistakes: one.names.reduce((sum, name) => sum + look.mistakes(name).filter((m) => !look.isCalm(m)).length, 0),
    titles: one.names.map((name) => now.get(name)?.title ?? name),
    fold: () => look.fold(one.heading, !folded),
    rename: (heading: string) => look.rename(one.names, heading),
  });
  const frames = trail.frames.map(
    ({ x, y, width, height, ...one }): Node => ({
      id: `frame:${one.heading}`,
      type: 'stretch',
      position: { x, y },
      width,
      height,
      draggable: false,
      selectable: false,
      zIndex: -1,
      data: stretch(one, false),
      ariaLabel: `Group ${one.heading}`,
    }),
  );
  const folded = trail.folded.map(
    (one): Node => ({
      id: FOLDED + one.heading,
      type: 'stretch',
      position: at(FOLDED + one.heading),
      data: stretch(one, true),
      ariaLabel: `Group ${one.heading}, collapsed`,
    }),
  );
  const cards = trail.cards.flatMap(({ name }) => now.get(name) ?? []);
  return [...frames, ...folded, ...cards.map((card) => nodeOf(card, at(card.name), look))];
}

function nodeOf(card: StepCard, position: { x: number; y: number }, look: Look): Node {
  const { name } = card;
  const mistakes = look.mistakes(name);
  const open = look.open(name);
  return {
    id: name,
    type: 'step',
    position,
    selected: look.selected.has(name),
    data: {
      card,
      ...look.states.get(name),
      held: look.held.includes(name),
      found: look.found === name,
      mistakes: mistakes.filter((one) => !look.isCalm(one)).length,
      toFill: mistakes.filter((one) => look.isCalm(one)).length,
      warnings: look.warnings(name),
      loose: card.branches.filter((branch) => !look.tied.has(`${name}.${branch}`)),
      ...(open && { open }),
      ...(look.openTools && card.tools.length > 0 && { openTools: () => look.openTools!(name) }),
    },
    ariaLabel: `Step ${card.title}, ${card.kind}`,
  };
}

export function edgesOf(
  links: readonly StepLink[],
  states: Map<string, { state: string }>,
  add: (link: StepLink) => void,
): Edge[] {
  const went = (link: StepLink) => ['done', 'failed', 'running', 'waiting'].includes(states.get(link.to)?.state ?? '');
  return links.map(
    (link): Edge => ({
      id: `${link.from}.${link.branch ?? ''}-${link.to}`,
      source: link.from,
      sourceHandle: link.branch ?? 'plain',
      target: link.to,
      type: 'link',
      data: { ...link, add: () => add(link) },
      markerEnd: { type: MarkerType.ArrowClosed, color: 'var(--soft)' },
      style: went(link) ? 'stroke: var(--spruce); stroke-width: 2.5' : 'stroke-width: 1.5',
      ariaLabel: `Link from ${link.from} ${link.branch ? `on ${link.branch} ` : ''}to ${link.to}`,
    }),
  );
}
