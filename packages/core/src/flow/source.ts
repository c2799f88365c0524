import { CORE_SCHEMA, load, YAMLException } from 'js-yaml';
import type { DocumentOptions, ParseOptions, SchemaOptions, ToJSOptions } from 'yaml';
import { isCollection, isMap, isPair, isScalar, isSeq, LineCounter, type Node, parseDocument } from 'yaml';
import type { Mistake } from '../errors/errors.js';
import { holdsMore, type Json, pointerParts } from '../json/json.js';
import { firstMistakes } from './shape.js';

/** A document with the positions of its values in the text. */
export interface Source {
  value: Json | undefined;
  /** Mistakes of the notation itself. */
  mistakes: Mistake[];
  /** The mistake with its line and column, counted from 1. */
  locate(mistake: Mistake, expression?: string): Mistake;
}

/** An anchor or an alias. What they stand for can grow without bound; only the careful parser counts. */
const SHARES = /(^|[\s[{,:-])[&*][^\s,\]}]/;

/**
 * Parses YAML 1.2 or JSON. Duplicate names are mistakes. Valid text is read by a fast parser; a slower one with
 * positions runs only if there are mistakes to locate.
 * @param text YAML or JSON
 * @returns the value, with lines and columns for each path, and its syntax errors
 */
export function readSource(text: string): Source {
  if (SHARES.test(text)) return readCarefully(text);
  let value: unknown;
  try {
    value = load(text, { schema: CORE_SCHEMA });
  } catch {
    return readCarefully(text);
  }
  let careful: Source | undefined;
  const locate = (mistake: Mistake, expression?: string): Mistake => {
    careful ??= readCarefully(text);
    return careful.locate(mistake, expression);
  };
  return { value: value as Json | undefined, mistakes: [], locate };
}

/** Limits of a text that is parsed in place; aliases count each time. */
const SKIMMED = 100_000;

/**
 * Parses a text of any length quickly. Only syntax errors have positions.
 * @param text YAML or JSON
 * @returns the value and its syntax errors
 */
export function skimSource(text: string): Source {
  const locate = (mistake: Mistake) => mistake;
  const refuse = (mistake: Mistake): Source => ({ value: undefined, mistakes: [mistake], locate });
  try {
    const value = load(text, { schema: CORE_SCHEMA });
    if (holdsMore(value, SKIMMED)) return refuse({ at: '', message: `The document holds more than ${SKIMMED} values` });
    return { value: value as Json | undefined, mistakes: [], locate };
  } catch (error) {
    if (!(error instanceof YAMLException)) throw error;
    const { line, column } = error.mark ?? { line: 0, column: 0 };
    const message = error.reason.replace(/^nesting exceeded maxDepth.*/, TOO_DEEP_SAID);
    return refuse({ at: '', line: line + 1, column: column + 1, message });
  }
}

/** What the parser says where it runs out of stack. */
const TOO_DEEP = 'Maximum call stack size exceeded';
const TOO_DEEP_SAID = 'The document is nested too deeply';

function readCarefully(text: string): Source {
  const lines = new LineCounter();
  const options: ParseOptions & DocumentOptions & SchemaOptions & ToJSOptions = {
    lineCounter: lines,
    // The library compares each name with every other; ours looks each up once.
    uniqueKeys: false,
    prettyErrors: false,
    maxAliasCount: 100,
    // What it would print is a mistake of whoever wrote the text, and no line of our log.
    logLevel: 'error',
  };
  const document = parseDocument(text, options);
  const mistakes = firstMistakes(document.errors, ({ pos, message }): Mistake[] => {
    const { line, col } = lines.linePos(pos[0]);
    return [{ at: '', line, column: col, message: message.replace(TOO_DEEP, TOO_DEEP_SAID) }];
  });
  if (mistakes.length === 0) mistakes.push(...twice(document.contents, lines));
  const locate = (mistake: Mistake, expression?: string): Mistake => {
    const start = offsetOf(document.contents as Node | null, pointerParts(mistake.at));
    if (start === undefined) return mistake;
    const inside = expression ? text.indexOf(expression, start) : -1;
    const { line, col } = lines.linePos(inside >= 0 ? inside : start);
    return { ...mistake, line, column: col };
  };
  let value: Json | undefined;
  try {
    value = mistakes.length === 0 ? (document.toJS({ maxAliasCount: 100 }) as Json) : undefined;
  } catch (error) {
    mistakes.push({ at: '', message: (error as Error).message });
  }
  return { value, mistakes, locate };
}

/** Names that stand twice in the same place. */
function twice(root: unknown, lines: LineCounter): Mistake[] {
  const found: Mistake[] = [];
  const stack = [root];
  for (let here = stack.pop(); here !== undefined; here = stack.pop()) {
    if (isSeq(here)) stack.push(...here.items);
    if (!isMap(here)) continue;
    const seen = new Set<string>();
    for (const { key, value } of here.items) {
      stack.push(value);
      const name = String(isScalar(key) ? key.value : key);
      if (seen.has(name) && name !== '<<') {
        const { line, col } = lines.linePos((key as Node).range?.[0] ?? 0);
        const message = `The name "${name}" occurs twice in the same place`;
        found.push({ at: '', line, column: col, message, hint: 'Rename one of them.' });
      }
      seen.add(name);
    }
  }
  return found;
}

/**
 * Wraps a document that never was text. Its mistakes have no positions.
 * @param value of the document
 * @returns the value without lines
 */
export function sourceOf(value: Json): Source {
  return { value, mistakes: [], locate: (mistake) => mistake };
}

/** Where the deepest part of a path that is there begins; a property begins at its name. */
function offsetOf(root: Node | null, parts: string[]): number | undefined {
  let here: unknown = root;
  let offset = root?.range?.[0];
  for (const part of parts) {
    if (isMap(here)) {
      const pair = here.items.find((item) => isPair(item) && isScalar(item.key) && String(item.key.value) === part);
      if (!pair) break;
      offset = (pair.key as Node).range?.[0] ?? offset;
      here = pair.value;
    } else if (isSeq(here)) {
      here = here.items[Number(part)];
      if (!here) break;
      offset = (here as Node).range?.[0] ?? offset;
    } else if (!isCollection(here)) break;
  }
  return offset;
}
