import type { FlowDocument } from '@pindro/core/browser';

/** Stores unsaved input in this browser too, so that closing a page loses nothing. */
export class Unsaved {
  readonly #place: string;

  constructor(flow: string) {
    this.#place = `pindro-unsaved-${flow}`;
  }

  keep(document: FlowDocument): void {
    try {
      localStorage.setItem(this.#place, JSON.stringify(document));
    } catch {
      // Too large for the browser: the service still gets it.
    }
  }

  forget(): void {
    try {
      localStorage.removeItem(this.#place);
    } catch {
      // Nothing was kept.
    }
  }

  /** What an earlier page left here, unless the draft says the same. */
  found(draft: FlowDocument): FlowDocument | null {
    try {
      const text = localStorage.getItem(this.#place);
      if (text === null || text === JSON.stringify(draft)) return null;
      const document = JSON.parse(text) as FlowDocument;
      return document.name === draft.name ? document : null;
    } catch {
      return null;
    }
  }
}
