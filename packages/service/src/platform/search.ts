/** Whether every word occurs in one of the texts, ignoring case. */
export function fits(search: string | undefined, ...texts: (string | null | undefined)[]): boolean {
  const all = texts.join(' ').toLowerCase();
  return (search ?? '')
    .toLowerCase()
    .split(/\s+/)
    .every((word) => all.includes(word));
}
