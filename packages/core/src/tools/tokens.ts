import { estimateTokenCount } from 'tokenx';
import type { Json } from '../json/json.js';

/**
 * About how many tokens a model reads where it is given a value. Every model cuts text in its own way: it is an
 * estimate, good for comparing and for a limit; what the model reports corrects it.
 * @param value text, or JSON as it is sent
 * @returns an estimate, at least 0
 */
export const estimateTokens = (value: Json): number =>
  estimateTokenCount(typeof value === 'string' ? value : JSON.stringify(value));
