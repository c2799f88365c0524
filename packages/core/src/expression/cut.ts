import type { Json } from '../json/json.js';

/** A text cut into literal pieces and expressions. Offsets count characters of the whole text. */
export type Piece = { literal: string } | { expression: string; offset: number };

/**
 * Splits a text at its `${ … }`; `$${` is a literal `${`. Braces and quotes inside an expression are balanced.
 * @param text of a template
 * @returns literal texts and expressions in order
 * @throws SyntaxError if an expression is not closed
 */
export function cutTemplate(text: string): Piece[] {
  const pieces: Piece[] = [];
  let literal = '';
  let at = 0;
  while (at < text.length) {
    if (text.startsWith('$${', at)) {
      literal += '${';
      at += 3;
    } else if (text.startsWith('${', at)) {
      const end = closingBrace(text, at + 2);
      if (end < 0) throw new SyntaxError('"${" is not closed by "}"');
      if (literal) pieces.push({ literal });
      literal = '';
      pieces.push({ expression: text.slice(at + 2, end).trim(), offset: at + 2 });
      at = end + 1;
    } else {
      literal += text[at++];
    }
  }
  if (literal) pieces.push({ literal });
  return pieces;
}

function closingBrace(text: string, from: number): number {
  let depth = 0;
  let quote = '';
  for (let at = from; at < text.length; at++) {
    const here = text[at]!;
    if (quote) {
      if (here === '\\') at++;
      else if (here === quote) quote = '';
    } else if (here === '"' || here === "'") quote = here;
    else if (here === '{') depth++;
    else if (here === '}' && depth-- === 0) return at;
  }
  return -1;
}

export const holdsExpression = (value: unknown): value is string =>
  typeof value === 'string' && /(^|[^$])(\$\$)*\$\{/.test(value);

/** Whether an expression in a value reads a variable. */
export function readsVariable(value: Json | undefined, name: string): boolean {
  const word = new RegExp(`\\b${name}\\b`);
  if (value === undefined || !word.test(JSON.stringify(value))) return false;
  return [...templateTexts(value)].some(({ text }) => {
    try {
      return cutTemplate(text).some((piece) => 'expression' in piece && word.test(piece.expression));
    } catch {
      return false; // The check says what is wrong with it.
    }
  });
}

/** Every text in a document value that holds an expression, with the JSON Pointer parts of where it stands. */
export function* templateTexts(
  value: Json,
  parts: PropertyKey[] = [],
): Generator<{ text: string; parts: PropertyKey[] }> {
  if (typeof value === 'string') {
    if (value.includes('${')) yield { text: value, parts };
  } else if (typeof value === 'object' && value !== null) {
    for (const [key, inner] of Object.entries(value))
      yield* templateTexts(inner, [...parts, Array.isArray(value) ? Number(key) : key]);
  }
}
