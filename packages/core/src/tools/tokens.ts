import { estimateTokenCount } from 'tokenx';
import type { Json } from '../json/json.js';

/**
 * Estimates how many tokens a value takes. Models tokenize differently, so the estimate serves comparisons and
 * limits; the usage that a model reports corrects it.
 * @param value text or JSON
 * @returns an estimate, at least 0
 */
export const estimateTokens = (value: Json): number =>
  estimateTokenCount(typeof value === 'string' ? value : JSON.stringify(value));
