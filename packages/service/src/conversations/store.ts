import { type Json, type MemoryPort, PindroError } from '@pindro/core';
import { desc, eq, inArray, like } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { permitOwnRecord, type SecretPermit } from '../policy/secrets.js';
import { memories } from './tables.js';

interface Waiter {
  enter(): void;
  refuse(error: PindroError): void;
}

interface Sealer {
  seal(text: string, belongsTo: string): string;
  unseal(sealed: string, permit: SecretPermit): string;
}

/**
 * Encrypted memories of agents. Turns of a key are sequential: the next one waits until the previous one is saved or
 * released.
 */
export class ConversationStore implements MemoryPort {
  readonly #queues = new Map<string, Waiter[]>();
  /** Keys whose conversation waits for somebody, with what it waits for. */
  readonly #held = new Map<string, string>();

  constructor(
    private readonly database: Database,
    private readonly vault: Sealer,
    private readonly bus?: Bus,
  ) {
    bus?.on('renamed', (what, from, to) => {
      if (what === 'flow') this.#followFlow(from, to);
    });
  }

  /** What an agent remembers stays its own when its flow goes by another name. */
  #followFlow(from: string, to: string): void {
    const rows = this.database
      .select()
      .from(memories)
      .where(like(memories.key, `%${from}%`))
      .all();
    for (const { key, turns } of rows) {
      const parts = JSON.parse(key) as string[];
      // [stage, flow, step, caller, ...]
      if (parts[1] !== from) continue;
      const moved = JSON.stringify([parts[0], to, ...parts.slice(2)]);
      const sealed =
        typeof turns === 'string'
          ? this.vault.seal(this.vault.unseal(turns, permitOwnRecord(`memory:${key}`)), `memory:${moved}`)
          : turns;
      this.database.update(memories).set({ key: moved, turns: sealed }).where(eq(memories.key, key)).run();
    }
  }

  async open(key: string, { signal, expires }: { signal: AbortSignal; expires?: number }): Promise<Json[]> {
    await this.#enter(key, signal);
    return this.look(key, expires);
  }

  async look(key: string, expires = Number.POSITIVE_INFINITY): Promise<Json[]> {
    const row = this.database
      .select({ turns: memories.turns, updatedAt: memories.updatedAt })
      .from(memories)
      .where(eq(memories.key, key))
      .get();
    if (!row || row.updatedAt < Date.now() - expires) return [];
    // Turns of earlier versions are not encrypted.
    if (typeof row.turns !== 'string') return row.turns as Json[];
    return JSON.parse(this.vault.unseal(row.turns, permitOwnRecord(`memory:${key}`))) as Json[];
  }

  async save(key: string, turns: Json[]): Promise<void> {
    const values = { turns: this.vault.seal(JSON.stringify(turns), `memory:${key}`), updatedAt: Date.now() };
    this.database
      .insert(memories)
      .values({ key, ...values })
      .onConflictDoUpdate({ target: memories.key, set: values })
      .run();
    this.bus?.changed('memory', key);
  }

  /** Every memory with its parts, the latest first. */
  all(): { key: string; updatedAt: number }[] {
    return this.database
      .select({ key: memories.key, updatedAt: memories.updatedAt })
      .from(memories)
      .orderBy(desc(memories.updatedAt))
      .all();
  }

  /** Forgets what is kept under some keys. @returns how many there were */
  forget(keys: readonly string[]): number {
    const gone = this.database
      .delete(memories)
      .where(inArray(memories.key, [...keys]))
      .returning({ key: memories.key })
      .all();
    for (const { key } of gone) this.bus?.changed('memory', key);
    return gone.length;
  }

  async release(key: string): Promise<void> {
    const queue = this.#queues.get(key);
    const next = queue?.shift();
    this.#held.delete(key);
    if (next) next.enter();
    else this.#queues.delete(key);
  }

  /** Waiting here could take as long as a person takes to answer, so the caller receives an error. */
  hold(key: string, what: string | null): void {
    if (what === null) return void this.#held.delete(key);
    this.#held.set(key, what);
    for (const waiter of this.#queues.get(key)?.splice(0) ?? []) waiter.refuse(waits(what));
  }

  #enter(key: string, signal: AbortSignal): Promise<void> {
    const queue = this.#queues.get(key);
    if (!queue) {
      this.#queues.set(key, []);
      return Promise.resolve();
    }
    const what = this.#held.get(key);
    if (what !== undefined) return Promise.reject(waits(what));
    return new Promise((resolve, reject) => {
      const off = () => signal.removeEventListener('abort', leave);
      const waiter: Waiter = {
        enter: () => {
          off();
          resolve();
        },
        refuse: (error) => {
          off();
          reject(error);
        },
      };
      const leave = () => {
        const place = queue.indexOf(waiter);
        if (place >= 0) queue.splice(place, 1);
        reject(signal.reason);
      };
      queue.push(waiter);
      signal.addEventListener('abort', leave, { once: true });
    });
  }
}

const waits = (what: string) => new PindroError('conversation_waits', { what });
