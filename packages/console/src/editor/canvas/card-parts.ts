import type { StepCard, StepLink } from '@pindro/contract/light';
import type { StepDocument } from '@pindro/core/browser';

/** The cards as the service drew them; a step it has not seen yet is shown with what is known. */
export function cardsFor(drawn: readonly StepCard[], steps: { [name: string]: StepDocument }): StepCard[] {
  const known = new Map(drawn.map((card) => [card.name, card]));
  return Object.entries(steps).map(([name, step]) => {
    const mine = {
      title: step.title ?? name.replaceAll('_', ' '),
      off: step.off ?? false,
      note: step.note ?? '',
      under: step.under ?? '',
    };
    const card = known.get(name);
    if (card?.kind === step.kind) return { ...card, ...mine };
    return { name, kind: step.kind, ...mine, sentence: [], branches: [], output: {}, inside: [], tools: [] };
  });
}

export const linksFor = (steps: { [name: string]: StepDocument }): StepLink[] =>
  Object.entries(steps).flatMap(([to, step]) =>
    (step.after ?? []).flatMap((text): StepLink[] => {
      const [from = '', branch = null] = text.split('.');
      return from in steps ? [{ from, to, branch }] : [];
    }),
  );
