import type { StepCard } from '@pindro/contract';
import { type FlowDocument, isObject, outlineOf } from '@pindro/core';

/** What each step says about itself, for the canvas. */
export function cardsOf(document: Pick<FlowDocument, 'steps'>): StepCard[] {
  return Object.entries(document.steps).map(([name, step]) => outlineOf(name, step));
}

/** Whether one can talk to a flow: it has an agent and takes a message. */
export function isConversational(document: FlowDocument): boolean {
  const properties = isObject(document.input?.properties) ? document.input.properties : {};
  return 'message' in properties && Object.values(document.steps).some((step) => step.kind === 'agent');
}
