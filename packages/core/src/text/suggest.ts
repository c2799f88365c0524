import { distance } from 'fastest-levenshtein';

const letters = (name: string) => [...name].sort().join('');

/** How far a name is from a known one; swapped letters and a name that was not written to its end count as one slip. */
function apart(name: string, known: string): number {
  if (letters(name) === letters(known)) return 1;
  if (name.length >= 3 && (known.startsWith(name) || name.startsWith(known))) return 1;
  return distance(name, known);
}

/** No name is longer; comparing long texts letter by letter takes long. */
const LONGEST = 100;

/**
 * Returns the known name that is nearest to a mistyped one, or undefined if none is near.
 * @param name mistyped name
 * @param known the valid names
 * @returns the nearest name, or undefined
 */
export function nearest(name: string, known: Iterable<string>): string | undefined {
  if (name.length > LONGEST) return undefined;
  let best: string | undefined;
  // In a very short name a second slip would be most of it.
  let least = (name.length <= 3 ? 1 : Math.max(2, Math.floor(name.length / 3))) + 1;
  for (const candidate of known) {
    const slips = apart(name.toLowerCase(), candidate.toLowerCase());
    if (slips < least) [best, least] = [candidate, slips];
  }
  return best;
}

/**
 * Returns a hint for a mistyped name: the nearest name, or all of them if there are few.
 * @param name mistyped name
 * @param known the valid names
 * @returns a sentence, or an empty text if nothing helps
 */
export function didYouMean(name: string, known: Iterable<string>): string {
  const names = [...known];
  const near = nearest(name, names);
  if (near) return `Did you mean "${near}"?`;
  if (names.length === 0) return 'None exist yet.';
  return names.length <= 12 ? `Known: ${names.join(', ')}.` : `There are ${names.length} of them.`;
}
