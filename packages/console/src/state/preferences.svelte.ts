interface Kept {
  navFolded: boolean;
  panelWidth: number;
  panelHidden: boolean;
  documentBeside: boolean;
  /** Recently opened addresses, most recent first. */
  recent: string[];
}

const PLACE = 'pindro-preferences';
const FIRST: Kept = { navFolded: false, panelWidth: 400, panelHidden: false, documentBeside: true, recent: [] };
const RECENT = 12;

/** How somebody likes the console, kept in the browser; a browser that keeps nothing forgets it with the page. */
class Preferences {
  #kept = $state<Kept>(read());

  get navFolded(): boolean {
    return this.#kept.navFolded;
  }
  get panelWidth(): number {
    return this.#kept.panelWidth;
  }
  get panelHidden(): boolean {
    return this.#kept.panelHidden;
  }
  get documentBeside(): boolean {
    return this.#kept.documentBeside;
  }
  get recent(): string[] {
    return this.#kept.recent;
  }

  set(change: Partial<Kept>): void {
    Object.assign(this.#kept, change);
    try {
      localStorage.setItem(PLACE, JSON.stringify(this.#kept));
    } catch {
      // A full or forbidden storage costs only the memory of it.
    }
  }

  visited(address: string): void {
    if (this.#kept.recent[0] === address) return;
    this.set({ recent: [address, ...this.#kept.recent.filter((one) => one !== address)].slice(0, RECENT) });
  }
}

function read(): Kept {
  try {
    return { ...FIRST, ...(JSON.parse(localStorage.getItem(PLACE) ?? '{}') as Partial<Kept>) };
  } catch {
    return { ...FIRST };
  }
}

export const preferences = new Preferences();
