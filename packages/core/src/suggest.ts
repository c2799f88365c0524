import { distance } from 'fastest-levenshtein';

/** The known name nearest to a mistyped one, or undefined when none is near enough to be meant. */
export function nearest(name: string, known: Iterable<string>): string | undefined {
  let best: string | undefined;
  // Two slips make a swapped pair of letters, the commonest of all; in a very short name two would be most of it.
  let least = (name.length <= 3 ? 1 : Math.max(2, Math.floor(name.length / 3))) + 1;
  for (const candidate of known) {
    const apart = distance(name.toLowerCase(), candidate.toLowerCase());
    if (apart < least) [best, least] = [candidate, apart];
  }
  return best;
}

/** A hint for a mistyped name: the nearest one, else the whole list when it is short. */
export function didYouMean(name: string, known: Iterable<string>): string {
  const names = [...known];
  const near = nearest(name, names);
  if (near) return `Did you mean "${near}"?`;
  if (names.length === 0) return 'There is none yet.';
  return names.length <= 12 ? `Known: ${names.join(', ')}.` : `There are ${names.length} of them.`;
}
