import {
  type CheckResult,
  checkFlow,
  compareFlows,
  isObject,
  type Json,
  type JsonObject,
  type Mistake,
  PindroError,
  type Surroundings,
  skimSource,
} from '@pindro/core';
import { drawDraft, type Written } from './drawing.js';

/** A long text without source locations, which cannot leave the thread. */
export interface Skimmed {
  value: Json | undefined;
  mistakes: Mistake[];
  /** Set where a key has more entries than were allowed. */
  over?: { key: string; limit: number; count: number };
}

/** @param most of a key how many entries it may have: a value with more does not leave the thread, which would take long */
function skim(text: string, most: Readonly<Record<string, number>> = {}): Skimmed {
  const { value, mistakes } = skimSource(text);
  const held: JsonObject = isObject(value) ? value : {};
  const over = Object.entries(most).find(
    ([key, limit]) => isObject(held[key]) && Object.keys(held[key]).length > limit,
  );
  if (!over) return { value, mistakes };
  const [key, limit] = over;
  return { value: undefined, mistakes: [], over: { key, limit, count: Object.keys(held[key] as JsonObject).length } };
}

function check(written: string | Json, surroundings: Surroundings): CheckResult & Written {
  const checked = checkFlow(written, surroundings);
  return { ...checked, json: checked.document ? JSON.stringify(checked.document) : undefined };
}

/** Returns the mistakes of each of many texts. One that cannot be checked does not affect the others. */
function checkEach(texts: readonly string[], surroundings: Surroundings): Mistake[][] {
  return texts.map((text) => {
    try {
      return checkFlow(text, surroundings).mistakes;
    } catch (error) {
      return [mistakeOf(error)];
    }
  });
}

/** Returns why a flow could not be checked, as its mistake. Rethrows unforeseen errors. */
export function mistakeOf(error: unknown): Mistake {
  if (!(error instanceof PindroError)) throw error;
  return { at: '', message: error.message, hint: error.hint };
}

/** What is done with documents that may take a while. */
export const flowWork = { check, checkEach, draw: drawDraft, compare: compareFlows, skim };
