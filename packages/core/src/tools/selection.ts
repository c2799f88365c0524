/** Whether a name matches a pattern in which `*` stands for any characters. */
export function fits(name: string, pattern: string): boolean {
  const pieces = pattern.split('*');
  const first = pieces[0]!;
  if (pieces.length === 1) return name === pattern;
  if (!name.startsWith(first)) return false;
  let at = first.length;
  for (const piece of pieces.slice(1, -1)) {
    const found = name.indexOf(piece, at);
    if (found < 0) return false;
    at = found + piece.length;
  }
  const last = pieces.at(-1)!;
  return name.length - at >= last.length && name.endsWith(last);
}

export interface Selection {
  chosen: string[];
  /** Patterns that fit nothing. */
  idle: string[];
}

/**
 * Selects names by names and patterns; a leading `!` excludes. Without an including pattern, all are included first.
 * @param names of all tools
 * @param patterns names, and patterns with `*`
 * @returns chosen names, and patterns that match nothing
 */
export function select(names: readonly string[], patterns: readonly string[] = []): Selection {
  const takes = patterns.filter((pattern) => !pattern.startsWith('!'));
  const leaves = patterns.filter((pattern) => pattern.startsWith('!')).map((pattern) => pattern.slice(1));
  const chosen = names.filter(
    (name) =>
      (takes.length === 0 || takes.some((pattern) => fits(name, pattern))) &&
      !leaves.some((pattern) => fits(name, pattern)),
  );
  const idle = [...takes, ...leaves].filter((pattern) => !names.some((name) => fits(name, pattern)));
  return { chosen, idle };
}
