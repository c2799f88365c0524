import type { JsonObject, ToolResult } from '@pindro/core';
import { LRUCache } from 'lru-cache';

const MOST = 1000;
/** All kept answers together may be so long, in characters of their JSON. */
const ROOM = 32 * 1024 * 1024;

interface Kept {
  server: string;
  at: number;
  result: ToolResult;
}

/** Answers of tools that only read, for whoever is content with one that is not quite fresh. By credential, never across. */
export class KeptAnswers {
  readonly #kept = new LRUCache<string, Kept>({ max: MOST, maxSize: ROOM });

  /** @param fresh how old it may be, in milliseconds */
  find(key: string, fresh: number): ToolResult | null {
    const one = this.#kept.get(key);
    const age = one ? performance.now() - one.at : 0;
    if (!one || age > fresh) return null;
    return { ...one.result, _meta: { ...one.result._meta, 'pindro/kept': Math.round(age / 1000) } };
  }

  keep(key: string, server: string, result: ToolResult): void {
    const size = JSON.stringify(result).length;
    if (!result.isError && size < ROOM / 8)
      this.#kept.set(key, { server, at: performance.now(), result }, { size: size + 1 });
  }

  /** The server is another now, or has other tools. */
  forget(server: string): void {
    for (const [key, one] of this.#kept.entries()) if (one.server === server) this.#kept.delete(key);
  }
}

export const keyOf = (server: string, tool: string, args: JsonObject, credential: string | undefined): string =>
  JSON.stringify([server, tool, credential ?? null, Object.entries(args).sort(([a], [b]) => (a < b ? -1 : 1))]);
