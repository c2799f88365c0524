import type { ServerActivity } from '@pindro/contract';
import { and, asc, eq, gte, lt, sql } from 'drizzle-orm';
import { bestEffort } from '../../platform/database/best-effort.js';
import type { Database } from '../../platform/database/open.js';
import { serverCalls } from '../tables.js';

type Call = Omit<typeof serverCalls.$inferInsert, 'id'>;
/** Calls are written down together, so often, in milliseconds. */
const TOGETHER = 1000;
const HOUR = 3600_000;
const KEPT = 14 * 24 * HOUR;
const MOST_FAILURES = 30;
/** Codes by which a server says that a credential may not do this. */
const NOT_ALLOWED = ['tool_refused', 'server_wants_key', 'own_credential_refused'];

/** Recent calls to tools of servers, stored for two weeks. */
export class CallLog {
  #waiting: Call[] = [];
  #timer: NodeJS.Timeout | null = null;
  #swept = 0;

  constructor(private readonly database: Database) {}

  note(call: Call): void {
    this.#waiting.push(call);
    this.#timer ??= setTimeout(() => this.flush(), TOGETHER).unref();
  }

  /** Writes down what waits. Nothing depends on it: a full disk costs the statistics and no call. */
  flush(): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = null;
    const calls = this.#waiting;
    this.#waiting = [];
    if (calls.length === 0) return;
    bestEffort(() => {
      for (let at = 0; at < calls.length; at += 500)
        this.database
          .insert(serverCalls)
          .values(calls.slice(at, at + 500))
          .run();
      this.#sweep();
    });
  }

  #sweep(): void {
    if (Date.now() - this.#swept < HOUR) return;
    this.#swept = Date.now();
    this.database
      .delete(serverCalls)
      .where(lt(serverCalls.at, Date.now() - KEPT))
      .run();
  }

  rename(from: string, to: string): void {
    this.flush();
    this.database.update(serverCalls).set({ server: to }).where(eq(serverCalls.server, from)).run();
  }

  /** How the calls of a server went in the last hours, in 24 to 48 pieces of time. */
  of(server: string, hours: number, now = Date.now()): ServerActivity {
    this.flush();
    const since = now - hours * HOUR;
    const calls = this.database
      .select()
      .from(serverCalls)
      .where(and(eq(serverCalls.server, server), gte(serverCalls.at, since)))
      .orderBy(asc(serverCalls.id))
      .all();
    const piece = (hours * HOUR) / PIECES;
    const over = Array.from({ length: PIECES }, (_, index) => {
      const from = since + index * piece;
      return { from: iso(from), ...summed(calls.filter(({ at }) => at >= from && at < from + piece)) };
    });
    const tools = [...new Set(calls.map(({ tool }) => tool))]
      .map((tool) => ({ tool, ...summed(calls.filter((one) => one.tool === tool)) }))
      .sort((a, b) => b.calls - a.calls);
    const failures = calls
      .filter(({ code }) => code !== null)
      .slice(-MOST_FAILURES)
      .reverse()
      .map(({ at, tool, took, code, run }) => ({ at: iso(at), tool, took, code: code!, run }));
    return { over, tools, failures, total: summed(calls) };
  }

  /** What became of the last call of each tool with the workspace's credential: whether the server let it. */
  allowed(server: string): Record<string, 'allowed' | 'refused'> {
    this.flush();
    const last = this.database
      .select({ tool: serverCalls.tool, id: sql<number>`max(${serverCalls.id})`, code: serverCalls.code })
      .from(serverCalls)
      .where(and(eq(serverCalls.server, server), sql`${serverCalls.credential} IS NULL`))
      .groupBy(serverCalls.tool)
      .all();
    return Object.fromEntries(
      last.map(({ tool, code }) => [tool, code !== null && NOT_ALLOWED.includes(code) ? 'refused' : 'allowed']),
    );
  }
}

const PIECES = 24;
const iso = (moment: number) => new Date(moment).toISOString();

function summed(calls: readonly { took: number; code: string | null }[]) {
  const times = calls.map(({ took }) => took).sort((a, b) => a - b);
  const within = (share: number) => times[Math.min(times.length - 1, Math.ceil(times.length * share) - 1)] ?? null;
  return {
    calls: calls.length,
    failed: calls.filter(({ code }) => code !== null).length,
    p50: within(0.5),
    p95: within(0.95),
  };
}
