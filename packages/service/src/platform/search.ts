/** Whether every word that is searched for stands in one of the texts, whatever their case. */
export function fits(search: string | undefined, ...texts: (string | null | undefined)[]): boolean {
  const all = texts.join(' ').toLowerCase();
  return (search ?? '')
    .toLowerCase()
    .split(/\s+/)
    .every((word) => all.includes(word));
}
