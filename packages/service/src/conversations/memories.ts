import type { Memory, MemorySummary } from '@pindro/contract';
import type { JsonObject } from '@pindro/core';
import {
  asJson,
  type Json,
  type Masker,
  MEMORY_PARTS,
  type MemoryPlace,
  PindroError,
  partOf,
  placeOf,
} from '@pindro/core';
import type { ConversationStore } from './store.js';

/** Maximum number of results. */
const MOST = 500;
/** As many notes as an agent may keep. */
const MOST_NOTES = 200;
const iso = (moment: number) => new Date(moment).toISOString();

interface Note {
  about: string;
  text: string;
  at: string;
}

/** Memories of agents for people: read, correct and delete. Everything is masked. */
export class Memories {
  constructor(
    private readonly store: ConversationStore,
    private readonly masker: Masker,
  ) {}

  /** @param words only those in whose place or content all of these stand */
  async list(words: string[]): Promise<MemorySummary[]> {
    const found: MemorySummary[] = [];
    for (const [key, updatedAt] of this.#keys()) {
      const { turns, notes, abstract, kept } = await this.read(key);
      const place = placeOf(key);
      const text = JSON.stringify([place, turns, notes, abstract, kept]).toLowerCase();
      if (!words.every((word) => text.includes(word))) continue;
      const exchanges = turns.filter(({ role }) => role === 'user').length;
      found.push({ ...shown(key, place), exchanges, notes: notes.length, updatedAt: iso(updatedAt) });
      if (found.length === MOST) break;
    }
    return found;
  }

  async show(id: string): Promise<Memory> {
    const key = this.#keyOf(id);
    const updatedAt = iso(this.#keys().get(key)!);
    return { ...shown(key, placeOf(key)), ...(await this.read(key)), updatedAt };
  }

  async read(key: string): Promise<Pick<Memory, 'turns' | 'notes' | 'abstract' | 'kept'>> {
    const [turns, notes, [abstract], [kept]] = await Promise.all([
      this.store.look(key),
      this.store.look(partOf(key, 'notes')),
      this.store.look(partOf(key, 'abstract')),
      this.store.look(partOf(key, 'kept')),
    ]);
    const memory: Pick<Memory, 'turns' | 'notes' | 'abstract' | 'kept'> = {
      turns: (turns as { role: string; text: string; name?: string }[]).map(({ role, text, name }) => ({
        ...{ role, text, tool: name ?? null },
      })),
      notes: notes as unknown as Note[],
      abstract: typeof abstract === 'string' ? abstract : '',
      kept: (kept ?? {}) as JsonObject,
    };
    return this.masker.record(memory);
  }

  /**
   * Replaces or deletes a note.
   * @param text null deletes it
   * @throws not_found
   */
  async correct(id: string, about: string, text: string | null): Promise<void> {
    const key = partOf(this.#keyOf(id), 'notes');
    const signal = AbortSignal.timeout(10_000);
    const notes = (await this.store.open(key, { signal })) as unknown as Note[];
    try {
      const rest = notes.filter((note) => note.about !== about);
      if (rest.length === notes.length && text === null)
        throw new PindroError('not_found', { what: 'note', name: about, suggestion: '' });
      const own = text === null ? [] : [{ about, text, at: iso(Date.now()) }];
      await this.store.save(key, asJson([...rest, ...own].slice(-MOST_NOTES)));
    } finally {
      await this.store.release(key);
    }
  }

  /** Forgets a memory with all its parts. */
  forget(id: string): void {
    const key = this.#keyOf(id);
    this.store.forget([key, ...MEMORY_PARTS.map((part) => partOf(key, part))]);
  }

  /** Each memory once, with when anything of it last changed. */
  #keys(): Map<string, number> {
    const all = new Map<string, number>();
    for (const { key, updatedAt } of this.store.all()) {
      const parts = JSON.parse(key) as Json[];
      const own = placeOf(key).part === 'turns' ? key : JSON.stringify(parts.slice(0, -1));
      all.set(own, Math.max(all.get(own) ?? 0, updatedAt));
    }
    return all;
  }

  #keyOf(id: string): string {
    const key = Buffer.from(id, 'base64url').toString();
    if (this.#keys().has(key)) return key;
    throw new PindroError('not_found', {
      what: 'memory',
      name: id,
      suggestion: 'List them with "pindro memory list".',
    });
  }
}

const shown = (key: string, { stage, flow, step, caller, key: own }: MemoryPlace) => ({
  ...{ id: Buffer.from(key).toString('base64url'), stage, flow, step, caller },
  key: own.map(String),
});
