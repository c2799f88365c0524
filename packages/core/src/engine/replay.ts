import type { AgentEntry } from '../agent/conversation/conversation.js';
import type { Json, JsonObject } from '../json/json.js';
import type { JournalEntry, Parked } from '../trace/journal/journal.js';

type Settled = Extract<JournalEntry, { type: 'step_settled' }>;
type Begun = Extract<JournalEntry, { type: 'step_begun' }>;

/** State of a run according to its journal, so that completed work is not repeated. */
export class Replay {
  readonly #settled = new Map<string, Settled>();
  readonly #begun = new Map<string, Begun>();
  readonly #attempts = new Map<string, number>();
  readonly #children = new Map<string, { run: string; span: string }>();
  readonly #parked = new Map<string, { id: string; start: number; until: number | null }>();
  readonly #conversed = new Map<string, AgentEntry[]>();
  readonly #unparked = new Set<string>();
  /** How many entries there are. */
  readonly length: number;
  readonly answered: { result: Json } | null;
  readonly ended: Extract<JournalEntry, { type: 'ended' }> | null;
  readonly secrets: string[] = [];

  constructor(readonly entries: readonly JournalEntry[]) {
    this.length = entries.length;
    let answered: { result: Json } | null = null;
    let ended: Extract<JournalEntry, { type: 'ended' }> | null = null;
    for (const entry of entries) {
      if (entry.type === 'step_begun') this.#begun.set(entry.path, entry);
      if (entry.type === 'attempt_failed') {
        this.#begun.delete(entry.path);
        this.#attempts.set(entry.path, entry.attempt);
      }
      if (entry.type === 'step_settled') {
        this.#settled.set(entry.path, entry);
        this.secrets.push(...(entry.sealed?.secrets ?? []));
      }
      if (entry.type === 'agent_turn') {
        const turns = this.#conversed.get(entry.path) ?? [];
        turns.push((entry.sealed?.value ?? entry.turn) as unknown as AgentEntry);
        this.#conversed.set(entry.path, turns);
        this.secrets.push(...(entry.sealed?.secrets ?? []));
      }
      if (entry.type === 'unparked') this.#unparked.add(entry.path);
      if (entry.type === 'child') this.#children.set(entry.path, { run: entry.child, span: entry.span });
      if (entry.type === 'parked')
        this.#parked.set(entry.path, { id: entry.span, start: entry.at, until: entry.until });
      if (entry.type === 'answered') answered = { result: entry.result };
      if (entry.type === 'ended') ended = entry;
    }
    this.answered = answered;
    this.ended = ended;
  }

  settled(path: string): (Omit<Settled, 'output'> & { output: JsonObject }) | undefined {
    const entry = this.#settled.get(path);
    return entry && { ...entry, output: (entry.sealed?.value ?? entry.output ?? {}) as JsonObject };
  }

  /** Work that cannot be repeated had begun there, and the journal does not know how it came out. */
  leftOpen(path: string): Begun | undefined {
    return this.#settled.has(path) ? undefined : this.#begun.get(path);
  }

  /** All such work. */
  allLeftOpen(): Begun[] {
    return [...this.#begun.values()].filter(({ path }) => !this.#settled.has(path));
  }

  /** The attempt with which a step resumes: the one that had started, or the one after the last failed one. */
  attempt(path: string): number {
    return this.leftOpen(path)?.attempt ?? (this.#attempts.get(path) ?? 0) + 1;
  }

  /** What the journal tells of the conversation that a step holds. */
  conversed(path: string): AgentEntry[] {
    return this.#conversed.get(path) ?? [];
  }

  /** The paths of all conversations that the journal tells of. */
  allConversed(): string[] {
    return [...this.#conversed.keys()];
  }

  /** What waited there is there, or the step that waited has settled. */
  #isOver(path: string): boolean {
    if (this.#unparked.has(path)) return true;
    for (let at = path; ; at = at.slice(0, at.lastIndexOf('/'))) {
      if (this.#settled.has(at)) return true;
      if (!at.includes('/')) return false;
    }
  }

  child(path: string): string | undefined {
    return this.#isOver(path) ? undefined : this.#children.get(path)?.run;
  }

  /** The moment at which a time that was being waited for is over. */
  until(path: string): number | null | undefined {
    return this.#parked.get(path)?.until;
  }

  /** Span of a resumed step. */
  span(path: string): { id: string; start: number } | undefined {
    const parked = this.#parked.get(path);
    if (parked) return { id: parked.id, start: parked.start };
    const child = this.#children.get(path);
    return child && { id: child.span, start: this.entries[0]?.at ?? 0 };
  }

  /** Where the run waits. */
  openPaths(): string[] {
    return this.waits().map(({ path }) => path);
  }

  /** What the run waits for, and where; `run` is the one it called and waits for. */
  waits(): (Parked & { path: string; run: string | null })[] {
    return this.entries.flatMap((entry) => {
      if (entry.type !== 'parked' || this.#isOver(entry.path)) return [];
      const { path, until, what } = entry;
      return [{ path, for: entry.for, until, what, run: this.child(path) ?? null }];
    });
  }

  /** Child runs that this one waits for and would start again on resuming. */
  openChildren(): string[] {
    return [...this.#children.keys()].flatMap((path) => this.child(path) ?? []);
  }
}
