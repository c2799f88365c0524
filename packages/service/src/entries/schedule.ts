import { nextDue } from './cron.js';
import type { EntryRecord, EntryStore } from './store.js';

/** The clock may be changed: check again after this many milliseconds. */
const LOOK_EVERY = 60_000;
const DAY = 24 * 60 * 60_000;

interface Parts {
  store: EntryStore;
  /** Begins a run. @returns when it has ended */
  begin(entry: EntryRecord): Promise<unknown>;
  failed(entry: EntryRecord, error: unknown): void;
  now(): number;
}

/** Begins flows at their times. */
export class Scheduler {
  readonly #timers = new Map<string, NodeJS.Timeout>();
  readonly #running = new Map<string, Promise<unknown>>();
  #closed = false;

  constructor(private readonly parts: Parts) {}

  /** Looks up every schedule: those that were due while nobody was there are made up for where that is wanted. */
  start(): void {
    for (const entry of this.#schedules()) {
      if (this.#missed(entry)) this.#due(entry, this.parts.now());
      this.#plan(entry);
    }
  }

  /** An entry point was changed. */
  reload(): void {
    if (this.#closed) return;
    for (const timer of this.#timers.values()) clearTimeout(timer);
    this.#timers.clear();
    for (const entry of this.#schedules()) this.#plan(entry);
  }

  close(): void {
    this.#closed = true;
    for (const timer of this.#timers.values()) clearTimeout(timer);
  }

  #schedules(): EntryRecord[] {
    return this.parts.store.list().filter((entry) => entry.kind === 'schedule' && entry.on);
  }

  #missed({ settings, usedAt }: EntryRecord): boolean {
    if (settings.kind !== 'schedule' || settings.missed !== 'once' || usedAt === null) return false;
    return nextDue(settings, new Date(usedAt)).getTime() < this.parts.now();
  }

  #plan(entry: EntryRecord): void {
    if (entry.settings.kind !== 'schedule' || this.#closed) return;
    const planned = this.parts.now();
    const at = nextDue(entry.settings, new Date(planned)).getTime();
    const wake = () => {
      // The clock was set back: another time comes first now.
      if (this.parts.now() < planned) return this.#plan(entry);
      // A long time is slept in parts, and the clock decides: the machine may have slept as well.
      const left = at - this.parts.now();
      if (left > 0) return void this.#timers.set(entry.id, setTimeout(wake, Math.min(left, LOOK_EVERY)).unref());
      if (!this.#wasDone(entry, at)) this.#due(entry, at);
      this.#plan(entry);
    };
    wake();
  }

  /** Whether a time that comes a second time, because the clock was set back a little, was begun before. */
  #wasDone({ id }: EntryRecord, at: number): boolean {
    const usedAt = this.parts.store.list().find((one) => one.id === id)?.usedAt ?? null;
    return usedAt !== null && usedAt >= at && usedAt - at < DAY;
  }

  #due(entry: EntryRecord, at: number): void {
    const { settings, id } = entry;
    if (settings.kind !== 'schedule') return;
    this.parts.store.used(id, at);
    const under = this.#running.get(id);
    if (under && settings.overlap === 'skip') return;
    const begin = () => this.parts.begin(entry).catch((error) => this.parts.failed(entry, error));
    const work = under && settings.overlap === 'wait' ? under.then(begin) : begin();
    this.#running.set(id, work);
    void work.finally(() => {
      if (this.#running.get(id) === work) this.#running.delete(id);
    });
  }
}
