import type { Json } from '../json.js';

/**
 * About how many tokens a model reads where it is given a value: words in pieces of six letters, digits in threes,
 * other signs in threes. Every model cuts text in its own way: it is an estimate, good for comparing and for a limit.
 */
export function estimateTokens(value: Json): number {
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  let tokens = 0;
  for (const [piece] of text.matchAll(/\p{L}+|\d+|[^\s\p{L}\d]+/gu)) {
    if (/^\d/.test(piece)) tokens += Math.ceil(piece.length / 3);
    else if (/^\p{L}/u.test(piece)) tokens += Math.ceil(piece.length / 6);
    // Signs that stand together, such as `":{"`, are mostly read as one or two.
    else tokens += Math.ceil(piece.length / 3);
  }
  return tokens;
}
