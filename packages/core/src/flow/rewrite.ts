import {
  Document,
  isMap,
  isScalar,
  isSeq,
  type Node,
  type Pair,
  parseDocument,
  type Scalar,
  visit,
  type YAMLMap,
  type YAMLSeq,
} from 'yaml';
import { isObject, type Json, type JsonObject } from '../json/json.js';

/**
 * Merges a changed document into its text: unchanged parts keep their wording, order, comments and style. A text that
 * cannot be parsed, or is JSON, is rewritten.
 * @param text of the present document
 * @param value of the new document
 * @returns YAML that reads as the value
 */
export function rewriteText(text: string, value: JsonObject): string {
  if (text.trimStart().startsWith('{')) return `${JSON.stringify(value, null, 2)}\n`;
  const document = parseDocument(text, { keepSourceTokens: false });
  if (document.errors.length > 0 || !isMap(document.contents)) return writeText(value);
  // An anchor that is used elsewhere would change there as well; such a text is written out.
  if (/(^|\s)[*&][\w-]+/.test(text) && JSON.stringify(document.toJS()) !== JSON.stringify(value))
    return writeText(value);
  mergeMap(document.contents, value, document);
  return restored(text, document.toString({ lineWidth: 0 }));
}

/** The written text with the old words wherever the old value stands: how somebody laid out a line is theirs. */
function restored(old: string, written: string): string {
  const before = parseDocument(old).contents;
  const after = parseDocument(written).contents;
  if (!isMap(before) || !isMap(after)) return written;
  const parts: string[] = [];
  let end = 0;
  for (const { from, to, words } of untouched(before, after, old, written)) {
    parts.push(written.slice(end, from), words);
    end = to;
  }
  const text = [...parts, written.slice(end)].join('');
  return JSON.stringify(parseDocument(text).toJS()) === JSON.stringify(parseDocument(written).toJS()) ? text : written;
}

interface Piece {
  from: number;
  to: number;
  words: string;
}

function untouched(before: YAMLMap, after: YAMLMap, old: string, written: string): Piece[] {
  const known = new Map((before.items as Pair[]).map((pair) => [keyOf(pair), pair]));
  return (after.items as Pair[]).flatMap((pair): Piece[] => {
    const earlier = known.get(keyOf(pair));
    const here = rangeOf(pair);
    const there = earlier && rangeOf(earlier);
    if (!here || !there || columnAt(written, here.from) !== columnAt(old, there.from)) return [];
    const [now, then] = [pair.value, earlier.value];
    if (sameNode(now, then)) return [{ ...here, words: old.slice(there.from, there.to) }];
    return isMap(now) && isMap(then) && !now.flow && !then.flow ? untouched(then, now, old, written) : [];
  });
}

function rangeOf(pair: Pair): { from: number; to: number } | undefined {
  const from = (pair.key as Node | null)?.range?.[0];
  const to = (pair.value as Node | null)?.range?.[1];
  return from === undefined || to === undefined ? undefined : { from, to };
}

const columnAt = (text: string, offset: number) => offset - (text.lastIndexOf('\n', offset - 1) + 1);
const plain = (node: unknown) => JSON.stringify(node === null ? null : (node as Node).toJSON());
const sameNode = (a: unknown, b: unknown) => plain(a) === plain(b);

/**
 * Serializes a document as YAML in the preferred order of fields.
 * @param value of the document
 * @returns YAML text
 */
export function writeText(value: JsonObject): string {
  const document = new Document(value);
  // Where a card stands is one thing, and takes one line.
  visit(document, {
    Pair: (_, pair) => {
      if (keyOf(pair) === 'place' && isSeq(pair.value)) pair.value.flow = true;
    },
  });
  return document.toString({ lineWidth: 0 });
}

const keyOf = (pair: Pair) => String(isScalar(pair.key) ? pair.key.value : pair.key);

function mergeMap(map: YAMLMap, value: JsonObject, document: Document): void {
  const old = new Map(map.items.map((pair) => [keyOf(pair as Pair), pair as Pair]));
  const gone = [...old.keys()].filter((key) => !Object.hasOwn(value, key));
  const added = Object.keys(value).filter((key) => !old.has(key));
  renameOne(old, gone, added, value, map);
  const order = Object.keys(value);
  const items = order.map((key) => {
    const pair = old.get(key);
    if (!pair) return document.createPair(key, value[key], { flow: key === 'place' }) as Pair;
    pair.value = merge(pair.value, value[key]!, document);
    return pair;
  });
  // What only changed in place stays where it was; new names come where the new document has them.
  map.items = sortLike(items, map);
}

/** One name gone and one new one with almost the same under it: it was renamed, and keeps its comments. */
function renameOne(old: Map<string, Pair>, gone: string[], added: string[], value: JsonObject, map: YAMLMap): void {
  if (gone.length !== 1 || added.length !== 1) return;
  const pair = old.get(gone[0]!)!;
  const before = map.items.indexOf(pair);
  if (Object.keys(value).indexOf(added[0]!) !== before) return;
  if (isScalar(pair.key)) (pair.key as Scalar).value = added[0];
  old.delete(gone[0]!);
  old.set(added[0]!, pair);
}

/** The old order for what was there; what is new stands after what it stands after in the new order. */
function sortLike(items: Pair[], map: YAMLMap): Pair[] {
  const wanted = new Set(items);
  const kept = (map.items as Pair[]).filter((pair) => wanted.has(pair));
  const old = new Set(kept);
  const first: Pair[] = [];
  const following = new Map(kept.map((pair) => [pair, [pair]]));
  let run = first;
  for (const pair of items) {
    if (old.has(pair)) run = following.get(pair)!;
    else run.push(pair);
  }
  return [...first, ...[...following.values()].flat()];
}

function merge(node: unknown, value: Json, document: Document): unknown {
  if (isMap(node) && isObject(value)) {
    // What began empty, as {}, is written as a block once there is something in it.
    if (node.items.length === 0) node.flow = false;
    mergeMap(node as YAMLMap, value, document);
    return node;
  }
  if (isSeq(node) && Array.isArray(value)) {
    const seq = node as YAMLSeq;
    if (seq.items.length === 0) seq.flow = false;
    seq.items = value.map((item, index) =>
      index < seq.items.length ? merge(seq.items[index], item, document) : document.createNode(item),
    );
    return seq;
  }
  if (isScalar(node) && (typeof value !== 'object' || value === null)) {
    if (node.value !== value) {
      // The style of the old text may not carry the new one.
      if (typeof value === 'string' && typeof node.value === 'string' && !value.includes('\n'))
        Object.assign(node, { value, source: undefined });
      else Object.assign(node, { value, source: undefined, type: undefined });
    }
    return node;
  }
  return document.createNode(value);
}
