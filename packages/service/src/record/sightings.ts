import { and, desc, eq, gte, sql } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import { sightings } from './tables.js';

const DAY = 24 * 60 * 60_000;
/** So many flows, tools and callers are named for a problem. */
const NAMED = 10;

export type Sighting = typeof sightings.$inferInsert;
/** By what occurrences of a problem are counted. */
type Counted = 'flow' | 'caller' | 'tool';

/** In which recorded runs a problem occurred. */
export class Sightings {
  constructor(private readonly database: Database) {}

  /** @returns whether it is a run in which the problem had not been seen yet */
  add(sighting: Sighting): boolean {
    return this.database.insert(sightings).values(sighting).onConflictDoNothing().run().changes > 0;
  }

  /** Names with the number of runs, the most frequent first; at most ten. */
  countBy(fingerprint: string, what: Counted): { name: string; times: number }[] {
    return this.database
      .select({ name: sightings[what], times: sql<number>`count(*)` })
      .from(sightings)
      .where(eq(sightings.fingerprint, fingerprint))
      .groupBy(sightings[what])
      .orderBy(desc(sql`count(*)`))
      .limit(NAMED)
      .all()
      .flatMap(({ name, times }) => (name === null ? [] : [{ name, times: Number(times) }]));
  }

  /** @returns runs by day since the epoch (UTC), from a moment on (milliseconds) */
  countByDay(fingerprint: string, from: number): Map<number, number> {
    const rows = this.database
      .select({ day: sql<number>`CAST(${sightings.at} / ${DAY} AS INTEGER)`, times: sql<number>`count(*)` })
      .from(sightings)
      .where(and(eq(sightings.fingerprint, fingerprint), gte(sightings.at, from)))
      .groupBy(sql`1`)
      .all();
    return new Map(rows.map(({ day, times }) => [Number(day), Number(times)]));
  }

  /** The newest runs first. */
  newest(fingerprint: string, most: number) {
    return this.database
      .select({ run: sightings.run, at: sightings.at, caller: sightings.caller, revision: sightings.revision })
      .from(sightings)
      .where(eq(sightings.fingerprint, fingerprint))
      .orderBy(desc(sightings.at))
      .limit(most)
      .all();
  }
}
