import { eq } from 'drizzle-orm';
import { bestEffort } from './database/best-effort.js';
import type { Database } from './database/open.js';
import { clockMarks } from './tables.js';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
/** The high-water mark is written this often. */
const MARK_EVERY = MINUTE;
/** A step forward up to this is how clocks are set; a larger one is distrusted. */
const USUAL_STEP = 5 * MINUTE;
/** How long the wall clock has to stay ahead before a step is taken over: a larger one longer. */
const PROBATION = [
  { step: DAY, lasts: 10 * MINUTE },
  { step: Number.POSITIVE_INFINITY, lasts: DAY },
] as const;
const MARK = 'steady';

/** Where a clock reads the time; others in tests. Milliseconds: since the epoch, and of any monotonic origin. */
export interface TimeSource {
  wall(): number;
  monotonic(): number;
}
export const SYSTEM_TIME: TimeSource = { wall: Date.now, monotonic: () => performance.now() };

/** What the clocks of the service tell, each in milliseconds since the epoch. */
export interface Clocks {
  /** The wall clock: for the calendar and for what people read. It may jump. */
  wall(): number;
  /**
   * For deadlines and expiry. Never goes back, not even across restarts, so that a clock that is set back revives nothing
   * that expired and leaves nothing waiting.
   */
  expiry(): number;
  /** For deleting what is old. Does not follow a jump forward before it has lasted, because what is deleted is gone. */
  deletion(): number;
}

/** Without a mark: for stores that are used on their own. */
export const PLAIN_CLOCKS: Clocks = { wall: Date.now, expiry: Date.now, deletion: Date.now };

/**
 * Provides time despite jumps of the wall clock. Steady time advances with the monotonic clock from the high-water
 * mark of the last run; it follows the wall clock forward once that has lasted, and never goes back.
 */
export class ServiceClock implements Clocks {
  /** The steady time, at a moment of the monotonic clock. */
  #steady: number;
  #at: number;
  /** Since when, by the monotonic clock, the wall clock is ahead; null where it is not. */
  #aheadSince: number | null = null;
  #timer: NodeJS.Timeout | null = null;
  #warned = false;

  constructor(
    private readonly database: Database,
    private readonly warn: (text: string) => void = () => {},
    private readonly source: TimeSource = SYSTEM_TIME,
  ) {
    const mark = database.select().from(clockMarks).where(eq(clockMarks.name, MARK)).get();
    const wall = source.wall();
    this.#at = source.monotonic();
    // A service that was stopped for hours is usual; one that was stopped for longer may have a wrong clock now.
    this.#steady = mark && (wall < mark.at || wall - mark.at > DAY) ? mark.at : wall;
    this.#follow();
  }

  start(): void {
    this.#mark();
    this.#timer = setInterval(() => this.#mark(), MARK_EVERY).unref();
  }

  close(): void {
    if (this.#timer) clearInterval(this.#timer);
    this.#mark();
  }

  wall(): number {
    return this.source.wall();
  }

  expiry(): number {
    return Math.floor(Math.max(this.source.wall(), this.#follow()));
  }

  deletion(): number {
    return Math.floor(Math.min(this.source.wall(), this.#follow()));
  }

  /** Advances the steady time, following the wall clock if allowed. */
  #follow(): number {
    const monotonic = this.source.monotonic();
    this.#steady += Math.max(0, monotonic - this.#at);
    this.#at = monotonic;
    const step = this.source.wall() - this.#steady;
    if (step <= 0) {
      this.#aheadSince = null;
      this.#warned = false;
    } else if (step <= USUAL_STEP) this.#take();
    else {
      this.#aheadSince ??= monotonic;
      this.#tell(step);
      const { lasts } = PROBATION.find((one) => step <= one.step)!;
      if (monotonic - this.#aheadSince >= lasts) this.#take();
    }
    return this.#steady;
  }

  #take(): void {
    this.#steady = this.source.wall();
    this.#aheadSince = null;
    this.#warned = false;
  }

  #tell(step: number): void {
    if (this.#warned || step <= HOUR) return;
    this.#warned = true;
    this.warn(`the clock is ${Math.round(step / HOUR)} h ahead of the expected time; nothing is deleted yet`);
  }

  #mark(): void {
    const at = Math.floor(this.#follow());
    bestEffort(() =>
      this.database
        .insert(clockMarks)
        .values({ name: MARK, at })
        .onConflictDoUpdate({ target: clockMarks.name, set: { at } })
        .run(),
    );
  }
}
