import type { StepDocument } from '../steps/document.js';
import { stepKind } from '../steps/registry.js';

export interface PlacedStep {
  name: string;
  step: StepDocument;
  /** The parts of its JSON Pointer. */
  at: PropertyKey[];
}

/**
 * Iterates over all steps of a document, including those inside loops.
 * @param steps of a document, or of a loop
 * @param at prefix of the returned paths
 * @returns each step with its name and its path
 */
export function* allSteps(steps: { [name: string]: StepDocument }, at: PropertyKey[] = []): Generator<PlacedStep> {
  for (const [name, step] of Object.entries(steps)) {
    const here = [...at, 'steps', name];
    yield { name, step, at: here };
    const body = stepKind(step.kind)?.body?.(step.with ?? {});
    if (body) yield* allSteps(body.steps, [...here, 'with']);
  }
}
