import { z } from 'zod';
import { anyJson } from '../json/any-json.js';
import type { Json } from '../json/json.js';

/** What a step says about itself on its card: words, and the values that fill them. */
export const sentenceSchema = z.array(z.union([z.string(), z.object({ value: anyJson })]));
export type Sentence = z.infer<typeof sentenceSchema>;

/** A value in a sentence is shown so long, in characters. */
const SHOWN = 80;

/** A sentence with its values filled in, for where it is read without a card. */
export function inWords(sentence: Sentence): string {
  const shown = (value: Json) => {
    const text = typeof value === 'string' ? value : JSON.stringify(value);
    return text.length > SHOWN ? `${text.slice(0, SHOWN - 1)}…` : text;
  };
  return sentence.map((part) => (typeof part === 'string' ? part : shown(part.value))).join('');
}
