import { PindroError } from '../../errors/errors.js';
import { type BuiltIn, gives } from '../built-in/built-in.js';
import { READ_ON } from './forward-result.js';

/** So much is read on at once, and so much is held for it in all, in characters. */
const PIECE = 32 * 1024;
const MOST = 32 * 1024 * 1024;

/** Recent long results of the conversation, up to a total size. */
export class LongResults {
  readonly #kept = new Map<string, string>();
  #held = 0;

  get isEmpty(): boolean {
    return this.#kept.size === 0;
  }

  keep(tool: string, text: string): void {
    this.#held += text.length - (this.#kept.get(tool)?.length ?? 0);
    this.#kept.delete(tool);
    this.#kept.set(tool, text);
    for (const [oldest, old] of this.#kept) {
      if (this.#held <= MOST) break;
      this.#kept.delete(oldest);
      this.#held -= old.length;
    }
  }

  /** The tool by which a model reads more of them. */
  readonly tool: BuiltIn = {
    name: READ_ON,
    description: 'Reads more of the most recent long result of a tool.',
    schema: {
      type: 'object',
      required: ['tool', 'from'],
      properties: {
        tool: { type: 'string', description: 'Name of the tool' },
        from: { type: 'integer', minimum: 0, description: 'Index of the first character' },
      },
    },
    reads: true,
    call: async ({ tool, from }) => {
      const text = this.#kept.get(String(tool));
      if (text === undefined) {
        const why = `no long result of "${tool}" is available any more`;
        throw new PindroError('arguments_refused', { tool: READ_ON, why, fix: 'Call the tool again.' });
      }
      const start = Number(from);
      return gives({ from: start, of: text.length, text: text.slice(start, start + PIECE) });
    },
  };
}
