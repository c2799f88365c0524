import type { Text } from '@codemirror/state';

interface Stair {
  indent: number;
  key: string;
}
const KEY = /^(\s*)(- )?(?:(["']?)([^"':#\s][^"':#]*?)\3\s*:(?:\s|$))?/;

/** The names under which a line stands, by how far it and those above it are set in. A list item counts from 0. */
export function pathAt(text: Text, number: number): { path: string[]; indent: number } {
  const here = text.line(number).text;
  const indent = here.trim() === '' ? here.length : (/^\s*/.exec(here)?.[0].length ?? 0);
  const stairs: Stair[] = [];
  let least = indent + (/^\s*- /.test(here) ? 2 : 0);
  for (let at = number - 1; at >= 1 && least > 0; at--) {
    const line = text.line(at).text;
    if (line.trim() === '' || line.trimStart().startsWith('#')) continue;
    const [, space = '', dash, , key] = KEY.exec(line) ?? [];
    const own = space.length + (dash ? 2 : 0);
    if (own < least && key !== undefined) {
      stairs.unshift({ indent: own, key });
      least = own;
    }
    if (dash && space.length < least) {
      stairs.unshift({ indent: space.length, key: '-' });
      least = space.length;
    }
  }
  return { path: stairs.map(({ key }) => key), indent };
}

/** Returns the first line of what a JSON Pointer names, if it has lines of its own. */
export function lineOf(text: Text, pointer: string): number | null {
  let found: Found | null = null;
  for (const part of pointer.split('/').slice(1)) {
    const next = childOf(text, found, part.replaceAll('~1', '/').replaceAll('~0', '~'));
    if (!next) break;
    found = next;
  }
  return found?.line ?? null;
}

interface Found {
  line: number;
  indent: number;
  isItem: boolean;
}

/** The line of a name, or of an item by its number, right below what was found so far. */
function childOf(text: Text, parent: Found | null, part: string): Found | null {
  let least: number | null = null;
  let item = -1;
  // The names of an item begin on the line of its dash.
  for (let line = parent ? parent.line + (parent.isItem ? 0 : 1) : 1; line <= text.lines; line++) {
    const [, space = '', dash, , key] = KEY.exec(text.line(line).text) ?? [];
    if (key === undefined && !dash) continue;
    const isFirst = parent?.line === line;
    if (parent && !isFirst) {
      const ends = parent.isItem || !dash ? space.length <= parent.indent : space.length < parent.indent;
      if (ends) return null;
    }
    const own = space.length + (dash ? 2 : 0);
    // Siblings have the same indentation; deeper lines belong to another value.
    least ??= dash && !isFirst ? space.length : own;
    if (dash && !isFirst && space.length === least && ++item === Number(part))
      return { line, indent: space.length, isItem: true };
    if (own === least && key === part) return { line, indent: own, isItem: false };
  }
  return null;
}
