import type { Mistake } from '../errors/errors.js';
import type { Json, JsonObject } from '../json/json.js';
import { checkFlow, readFlow, type Surroundings, shapeMistakes } from './check.js';
import { draftSchema, type FlowDocument } from './document.js';
import { rewriteText, writeText } from './rewrite.js';

/** A flow being edited. A draft without a document cannot be stored; its mistakes say why. */
export type Draft =
  | { document: FlowDocument; text: string; mistakes: Mistake[] }
  | { document: null; mistakes: Mistake[] };

/**
 * Reads a draft, which may contain mistakes as long as it can be parsed.
 * @param written YAML or JSON text, or a value
 * @param surroundings names that the flow may use
 * @param into present text of the draft; a document is merged into it, which preserves comments
 * @returns the text to store, its document if it can be read, and its mistakes
 */
export function readDraft(written: string | Json, surroundings: Surroundings = {}, into?: string): Draft {
  const source = readFlow(written);
  if (source.mistakes.length > 0) return { document: null, mistakes: source.mistakes };
  const parsed = draftSchema.safeParse(source.value);
  if (!parsed.success)
    return { document: null, mistakes: shapeMistakes(parsed.error, source.value).map((one) => source.locate(one)) };
  const kept = (text: string, checked: string | Json): Draft => ({
    document: parsed.data,
    text,
    mistakes: checkFlow(checked, surroundings).mistakes,
  });
  if (typeof written === 'string') return kept(written, written);
  // Lines are reported for text only.
  if (into === undefined) return kept(writeText(written as JsonObject), written);
  const text = rewriteText(into, written as JsonObject);
  return kept(text, text);
}
