interface Sized {
  name: string;
  height: number;
}
interface Tie {
  from: string;
  to: string;
}
const GAP = { across: 48, down: 64 };

/**
 * Rows by how far a card is from the beginning, each in the order of the document: for flows so large that crossing
 * lines matter less than the wait. Takes time with the number of cards and links.
 */
export function layOutPlainly(
  cards: readonly Sized[],
  links: readonly Tie[],
  width: number,
): Map<string, { x: number; y: number }> {
  const rank = ranksOf(cards, links);
  const rows: Sized[][] = [];
  for (const card of cards) (rows[rank.get(card.name)!] ??= []).push(card);
  const places = new Map<string, { x: number; y: number }>();
  const widest = Math.max(...rows.map((row) => row?.length ?? 0));
  let y = 0;
  for (const row of rows.filter(Boolean)) {
    const begin = ((widest - row.length) * (width + GAP.across)) / 2;
    for (const [index, card] of row.entries()) places.set(card.name, { x: begin + index * (width + GAP.across), y });
    y += Math.max(...row.map((card) => card.height)) + GAP.down;
  }
  return places;
}

/** Number of links to each node on the longest path from a start. A cycle starts again. */
function ranksOf(cards: readonly Sized[], links: readonly Tie[]): Map<string, number> {
  const waits = new Map(cards.map(({ name }) => [name, 0]));
  const after = new Map<string, string[]>();
  for (const { from, to } of links) {
    if (!waits.has(from) || !waits.has(to)) continue;
    waits.set(to, waits.get(to)! + 1);
    after.set(from, [...(after.get(from) ?? []), to]);
  }
  const rank = new Map<string, number>();
  const queue = cards.map(({ name }) => name).filter((name) => waits.get(name) === 0);
  for (const name of queue) rank.set(name, 0);
  for (const name of queue)
    for (const next of after.get(name) ?? []) {
      rank.set(next, Math.max(rank.get(next) ?? 0, rank.get(name)! + 1));
      waits.set(next, waits.get(next)! - 1);
      if (waits.get(next) === 0) queue.push(next);
    }
  for (const { name } of cards) if (!rank.has(name)) rank.set(name, 0);
  return rank;
}
