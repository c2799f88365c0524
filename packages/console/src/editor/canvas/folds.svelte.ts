/** Which stretches of a flow are folded: how somebody looks at it, and not part of it. */
export class Folds {
  list = $state.raw<ReadonlySet<string>>(new Set());
  readonly #place: string;

  constructor(flow: string) {
    this.#place = `pindro-folds-${flow}`;
    try {
      this.list = new Set(JSON.parse(localStorage.getItem(this.#place) ?? '[]') as string[]);
    } catch {
      // All stand open.
    }
  }

  set(heading: string, folded: boolean): void {
    const rest = [...this.list].filter((one) => one !== heading);
    this.list = new Set(folded ? [...rest, heading] : rest);
    try {
      localStorage.setItem(this.#place, JSON.stringify([...this.list]));
    } catch {
      // It holds until the page is closed.
    }
  }
}
