import type { Json, MemoryPort } from '@pindro/core';
import { eq, like } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { memories } from './tables.js';

interface Sealer {
  seal(text: string, belongsTo: string): string;
  unseal(sealed: string, belongsTo: string): string;
}

/** What agents remember, sealed: what is said in a conversation may hold what nobody should see. One turn at a time for each key: the next one waits until the one before is saved or given up. */
export class ConversationStore implements MemoryPort {
  readonly #queues = new Map<string, (() => void)[]>();

  constructor(
    private readonly database: Database,
    private readonly vault: Sealer,
    bus?: Bus,
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
          ? this.vault.seal(this.vault.unseal(turns, `memory:${key}`), `memory:${moved}`)
          : turns;
      this.database.update(memories).set({ key: moved, turns: sealed }).where(eq(memories.key, key)).run();
    }
  }

  async open(key: string, { signal }: { signal: AbortSignal }): Promise<Json[]> {
    await this.#enter(key, signal);
    const row = this.database.select({ turns: memories.turns }).from(memories).where(eq(memories.key, key)).get();
    if (!row) return [];
    // From before they were sealed, turns stand there as they are.
    if (typeof row.turns !== 'string') return row.turns as Json[];
    return JSON.parse(this.vault.unseal(row.turns, `memory:${key}`)) as Json[];
  }

  async save(key: string, turns: Json[]): Promise<void> {
    const values = { turns: this.vault.seal(JSON.stringify(turns), `memory:${key}`), updatedAt: Date.now() };
    this.database
      .insert(memories)
      .values({ key, ...values })
      .onConflictDoUpdate({ target: memories.key, set: values })
      .run();
  }

  async release(key: string): Promise<void> {
    const queue = this.#queues.get(key);
    const next = queue?.shift();
    if (next) next();
    else this.#queues.delete(key);
  }

  #enter(key: string, signal: AbortSignal): Promise<void> {
    const queue = this.#queues.get(key);
    if (!queue) {
      this.#queues.set(key, []);
      return Promise.resolve();
    }
    return new Promise((resolve, reject) => {
      const enter = () => {
        signal.removeEventListener('abort', leave);
        resolve();
      };
      const leave = () => {
        const place = queue.indexOf(enter);
        if (place >= 0) queue.splice(place, 1);
        reject(signal.reason);
      };
      queue.push(enter);
      signal.addEventListener('abort', leave, { once: true });
    });
  }
}
