import type { Mistake } from '../errors/errors.js';
import { pointer } from '../json/json.js';
import { allSteps, type PlacedStep } from './all-steps.js';
import type { FlowDocument } from './document.js';

/**
 * The steps that change or remove rows, of a flow that does not ask whether any row matched: it neither follows their
 * branch `none`, nor reads their count or rows.
 */
export function unmatchedSteps(document: FlowDocument): PlacedStep[] {
  const steps = [...allSteps(document.steps)].filter(
    ({ step }) => step.kind === 'table' && ['change', 'remove'].includes(String(step.with?.do)),
  );
  if (steps.length === 0) return [];
  const text = JSON.stringify(document);
  return steps.filter(
    ({ name }) =>
      !text.includes(`"${name}.none"`) && !new RegExp(`steps\\.${name}\\b(?!\\.(?:refused|error)\\b)`).test(text),
  );
}

/** Warns of every such step with successors that assume a change. */
export const unmatchedWarnings = (document: FlowDocument): Mistake[] =>
  unmatchedSteps(document).map(({ name, step, at }) => ({
    at: pointer([...at, 'with', 'where']),
    message: `"${name}" ${step.with?.do === 'remove' ? 'removes' : 'changes'} nothing if no row matches, and the flow continues`,
    hint: `Add a step after "${name}.none", or use steps.${name}.count.`,
  }));
