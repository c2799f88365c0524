import { LRUCache } from 'lru-cache';
import { RE2JS } from 're2js';

/** Reading a pattern costs fifty times as much as using it. */
const known = new LRUCache<string, RE2JS>({ max: 500 });

/** A regular expression (RE2 syntax) that takes linear time whatever the pattern. @throws where it is none */
export function linearPattern(pattern: string): { test(text: string): boolean } {
  let compiled = known.get(pattern);
  if (!compiled) known.set(pattern, (compiled = RE2JS.compile(pattern)));
  return { test: (text) => compiled.matcher(text).find() };
}
