/** How much is kept for clients that lost a stream, in characters: for a session, for a key, and in all. */
const LIMITS = { session: 4 * 1024 * 1024, key: 16 * 1024 * 1024, all: 64 * 1024 * 1024 };

/** A stream that keeps what it said, in characters. */
interface BufferedStream {
  /** Drops all it keeps. */
  forget(): void;
  /** Drops so much of it, the oldest first. */
  shorten(characters: number): void;
}

/** Streams that keep something, the one that said something longest ago first. */
export class Kept {
  #characters = 0;
  readonly #streams = new Set<BufferedStream>();

  private constructor(
    private readonly limit: number,
    private readonly above: Kept | null,
  ) {}

  static forAll(): Kept {
    return new Kept(LIMITS.all, null);
  }
  forKey(): Kept {
    return new Kept(LIMITS.key, this);
  }
  forSession(): Kept {
    return new Kept(LIMITS.session, this);
  }

  /** Additional buffer of a stream, in characters. Beyond the total the oldest buffers are dropped. */
  add(stream: BufferedStream, characters: number): void {
    this.#streams.delete(stream);
    this.#streams.add(stream);
    this.#characters += characters;
    this.above?.add(stream, characters);
    for (const oldest of this.#streams) {
      if (this.#characters <= this.limit || oldest === stream) break;
      oldest.forget();
    }
    if (this.#characters > this.limit) stream.shorten(this.#characters - this.limit);
  }

  remove(stream: BufferedStream, characters: number, gone: boolean): void {
    if (gone) this.#streams.delete(stream);
    this.#characters -= characters;
    this.above?.remove(stream, characters, gone);
  }
}
