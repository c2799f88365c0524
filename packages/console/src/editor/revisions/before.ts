import type { StepCard } from '@pindro/contract/light';
import type { Editor } from '../session/session.svelte.js';

/** The cards of steps that come before one, directly or not; of a step in a loop, those around the loop too. */
export function stepsBefore(editor: Editor, step: string): StepCard[] {
  const seen = new Set<string>();
  const queue = [step];
  for (const name of queue)
    for (const link of editor.steps[name]?.after ?? []) {
      const from = link.split('.')[0]!;
      if (seen.has(from)) continue;
      seen.add(from);
      queue.push(from);
    }
  const outer = editor.place.length > 0 ? editor.drawing.cards.filter((card) => card.name !== editor.place[1]) : [];
  return [...editor.cards.filter((card) => seen.has(card.name)), ...outer];
}
