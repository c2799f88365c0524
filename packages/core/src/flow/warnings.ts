import type { Mistake } from '../errors/errors.js';
import { pointer } from '../json/json.js';
import type { Surroundings } from '../steps/environment.js';
import { stepKind } from '../steps/registry.js';
import { allSteps } from './all-steps.js';
import type { FlowDocument } from './document.js';
import { unmatchedWarnings } from './unmatched.js';

/**
 * Finds settings of a flow that are valid but currently have no effect.
 * @param document of the flow
 * @param surroundings names that the flow may use
 * @returns located warnings
 */
export const warningsOf = (document: FlowDocument, surroundings: Surroundings): Mistake[] => [
  ...unmatchedWarnings(document),
  ...[...allSteps(document.steps)].flatMap(({ step, at }) =>
    (stepKind(step.kind)?.warnings?.(step.with ?? {}, surroundings) ?? []).map((warning) => ({
      ...warning,
      at: `${pointer([...at, 'with'])}${warning.at}`,
    })),
  ),
];
