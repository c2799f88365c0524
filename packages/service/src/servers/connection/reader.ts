import { type CatalogueHit, PindroError, type RecognizedServer, type SecretChoice } from '@pindro/core';
import { WorkThread } from '../../platform/work-thread.js';
import { serverWork } from '../work.js';

/** A shorter text is read at once, whatever is in it, in characters. */
const SHORT = 2000;

/** Reads pasted settings and catalogues, long ones in a thread, so that no text keeps others waiting. */
export class PastedReader {
  readonly #thread = new WorkThread<typeof serverWork>(
    new URL('../work-thread.js', import.meta.url),
    (limit) => new PindroError('attach_unclear', { why: `it cannot be read within ${limit}` }),
  );

  async understand(text: string, { plain, encrypt }: SecretChoice): Promise<RecognizedServer[]> {
    const choice = { plain, encrypt };
    return text.length <= SHORT ? serverWork.understand(text, choice) : this.#thread.ask('understand', text, choice);
  }

  async search(text: string, words: string): Promise<CatalogueHit[]> {
    return text.length <= SHORT ? serverWork.search(text, words) : this.#thread.ask('search', text, words);
  }

  close(): void {
    this.#thread.close();
  }
}
