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

/** The line at which what a JSON Pointer names begins, as far as it stands in lines of its own. */
export function lineOf(text: Text, pointer: string): number | null {
  const parts = pointer
    .split('/')
    .slice(1)
    .filter((part) => !/^\d+$/.test(part));
  let found: number | null = null;
  let at = 1;
  let least = -1;
  for (const part of parts) {
    let hit = 0;
    for (let number = at; number <= text.lines; number++) {
      const [, space = '', dash, , key] = KEY.exec(text.line(number).text) ?? [];
      const own = space.length + (dash ? 2 : 0);
      if (key === undefined) continue;
      if (own <= least && number > at) break;
      if (key === part) {
        hit = number;
        least = own;
        break;
      }
    }
    if (hit === 0) return found;
    found = hit;
    at = hit + 1;
  }
  return found;
}
