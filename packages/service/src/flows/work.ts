import { checkFlow, compareFlows, type Json, type Mistake, skimSource } from '@pindro/core';
import { drawDraft } from './drawing.js';

/** A long text without the places of what stands in it: those cannot leave the thread. */
export interface Skimmed {
  value: Json | undefined;
  mistakes: Mistake[];
}

function skim(text: string): Skimmed {
  const { value, mistakes } = skimSource(text);
  return { value, mistakes };
}

/** What is done with documents that may take a while. */
export const flowWork = { check: checkFlow, draw: drawDraft, compare: compareFlows, skim };
